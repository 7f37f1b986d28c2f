import type { Instrument } from '../midi/instrument'
import { channelMessageBytes } from '../midi/message'
import type { MidiFile } from '../midi/standardMidiFile/model'
import { fileStreams } from '../midi/standardMidiFile/parts'
import type { TempoMap } from '../time/tempoMap'
import { rescaleTicks, TICKS_PER_QUARTER, type Ticks } from '../time/units'
import type { PerformedMessage } from './performer'

/** One part of a file that plays as a player: everything one channel of one track sends. */
export interface FilePlayerPart {
  readonly name: string
  readonly channel: number
  readonly instrument: Instrument
  /** In order; positions in the project's ticks. */
  readonly events: readonly { readonly ticks: Ticks; readonly bytes: readonly number[] }[]
}

/** More parts than one port has channels play on further ports. */
export const partsPerPort = 16

/**
 * The parts of a file with notes, in its order, each on a channel of its own: part n plays on channel n mod 16 of the
 * file's port n div 16, so that parts that share a channel in the file can be told apart.
 */
export function filePlayerParts(file: MidiFile): FilePlayerPart[] {
  return fileStreams(file)
    .filter((stream) => stream.noteCount > 0)
    .map((stream, index) => {
      const channel = (index % partsPerPort) + 1
      return {
        name: stream.name,
        channel,
        instrument:
          stream.channel === 10
            ? ({ kind: 'drums' } as const)
            : ({ kind: 'program', program: stream.program ?? 0 } as const),
        events: stream.events.flatMap((event) =>
          'channel' in event
            ? [
                {
                  ticks: rescaleTicks(event.tick, file.divisionTicksPerQuarter, TICKS_PER_QUARTER),
                  bytes: channelMessageBytes({ ...event, channel }),
                },
              ]
            : [],
        ),
      }
    })
}

/**
 * Plays parts of a file from a position on, at the project's tempo. Notes that began before are left out, their releases
 * too; controllers and programs before it are sent at once in their last state.
 */
export function performFile(
  parts: readonly FilePlayerPart[],
  tempoMap: TempoMap,
  fromTicks: Ticks,
): PerformedMessage[] {
  const startMs = tempoMap.msAt(fromTicks)
  const messages: PerformedMessage[] = []
  for (const part of parts) {
    const latest = new Map<string, PerformedMessage>()
    const down = new Set<number>()
    for (const { ticks, bytes } of part.events) {
      const [status, data1 = 0, data2 = 0] = bytes as [number, number?, number?]
      const kind = status & 0xf0
      const message: PerformedMessage = {
        timeMs: Math.max(0, tempoMap.msAt(ticks) - startMs),
        bytes: [status, data1, data2],
      }
      const isNote = kind === 0x80 || kind === 0x90
      if (ticks < fromTicks) {
        if (!isNote) latest.set(kind === 0xb0 ? `${kind} ${data1}` : `${kind}`, message)
        continue
      }
      if (kind === 0x90 && data2 > 0) down.add(data1)
      else if (isNote && !down.has(data1)) continue
      messages.push(message)
    }
    messages.push(...latest.values())
  }
  return messages.sort((a, b) => a.timeMs - b.timeMs)
}
