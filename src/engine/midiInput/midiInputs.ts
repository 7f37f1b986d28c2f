import type { KnownPort } from '@/core/routing/ports'
import { boundedName, boundedPortId } from '@/core/text/bounded'
import { epochAt } from '../clock'
import type { SourceEvent } from '../protocol'
import { readSourceEvent } from './sourceEvent'

/** The part of the W3C Web MIDI API's `MIDIInput` that is used: real ports and stand-ins alike have this shape. */
export interface MidiInputPort extends EventTarget {
  readonly id: string
  readonly name: string | null
  readonly state: 'connected' | 'disconnected'
}

/** The part of `MIDIOutput` that is used. `timestamp` counts from this thread's time origin. */
export interface MidiOutputPort {
  readonly id: string
  readonly name: string | null
  readonly state: 'connected' | 'disconnected'
  send(data: readonly number[], timestamp?: number): void
}

/** The part of `MIDIMessageEvent` that is used: `timeStamp` counts from this thread's time origin. */
interface MidiMessageLike extends Event {
  readonly data: Uint8Array | null
}

/**
 * Listens to a port. Messages keep the time stamp that the device's driver gave them; arrival time is never used. Of
 * system messages only the clock's are passed on; what is no MIDI message is refused, and that is told.
 *
 * @returns a function that stops listening
 */
export function listenToPort(
  port: MidiInputPort,
  receive: (event: SourceEvent) => void,
  refuse: (reason: string) => void,
): () => void {
  const portId = portIdOf(port)
  const onMessage = (event: Event) => {
    const { data, timeStamp } = event as MidiMessageLike
    const read = data && readSourceEvent(portId, epochAt(timeStamp), data, refuse)
    if (read) receive(read)
  }
  port.addEventListener('midimessage', onMessage)
  return () => port.removeEventListener('midimessage', onMessage)
}

export type MidiAvailability =
  | { readonly state: 'asking' }
  | { readonly state: 'ready'; readonly ports: readonly KnownPort[]; readonly outputs: readonly KnownPort[] }
  /** Said to the user as it is. */
  | { readonly state: 'unavailable'; readonly reason: string }

/** The part of `MIDIAccess` that is used. */
interface MidiAccessLike extends EventTarget {
  readonly inputs: ReadonlyMap<string, MidiInputPort>
  readonly outputs?: ReadonlyMap<string, MidiOutputPort>
}

/** The ports there are now. */
export interface MidiPorts {
  readonly inputs: readonly MidiInputPort[]
  readonly outputs: readonly MidiOutputPort[]
}

/** The identifier by which a port is kept in projects: its own, unless that is too long to be stored. */
export function portIdOf(port: { readonly id: string }): string {
  return boundedPortId(port.id)
}

const named = (port: { id: string; name: string | null }): KnownPort => ({
  id: portIdOf(port),
  name: boundedName(port.name ?? 'Unnamed port'),
})

/**
 * Opens the browser's MIDI ports and follows them as they come and go.
 *
 * @param onChange told of every change, with the ports that can be used now
 */
export async function followMidiPorts(
  onChange: (availability: MidiAvailability, ports: MidiPorts) => void,
): Promise<void> {
  const none: MidiPorts = { inputs: [], outputs: [] }
  const request = (navigator as { requestMIDIAccess?: () => Promise<unknown> }).requestMIDIAccess?.bind(
    navigator,
  )
  if (!request) {
    onChange(
      {
        state: 'unavailable',
        reason:
          'This browser has no MIDI. Everything else works: the computer keyboard, the stand-in players, cables, files.',
      },
      none,
    )
    return
  }
  try {
    const access = (await request()) as MidiAccessLike
    const tell = () => {
      const inputs = [...access.inputs.values()].filter((port) => port.state === 'connected')
      const outputs = [...(access.outputs?.values() ?? [])].filter((port) => port.state === 'connected')
      onChange({ state: 'ready', ports: inputs.map(named), outputs: outputs.map(named) }, { inputs, outputs })
    }
    access.addEventListener('statechange', tell)
    tell()
  } catch (error) {
    const name = (error as { name?: unknown } | null)?.name
    const reason =
      name === 'SecurityError' || name === 'NotAllowedError'
        ? 'The browser did not allow MIDI for this page. Allow it beside the address, then reload; until then the computer keyboard, the stand-in players, cables and files work.'
        : 'The browser found no MIDI system on this machine. Everything else works: the computer keyboard, the stand-in players, cables, files.'
    onChange({ state: 'unavailable', reason }, none)
  }
}
