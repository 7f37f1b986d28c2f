import { performPart } from '@/core/capture/performer'
import { standInPlayers, standInPortId, standInPortName } from '@/core/demo/harbourEvening'
import { addSource } from '@/core/project/commands'
import type { Project } from '@/core/project/schema'
import { listenersOf } from '@/core/routing/route'
import { TempoMap } from '@/core/time/tempoMap'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { ComputerKeyboard, type KeyboardSettings } from '@/engine/midiInput/computerKeyboard'
import {
  followMidiPorts,
  listenToPort,
  type MidiAvailability,
  type MidiInputPort,
} from '@/engine/midiInput/midiInputs'
import type { SourceEvent, ToEngine } from '@/engine/protocol'
import { StandInPort } from '@/engine/standIns/standInPort'
import type { ProjectStore } from './projectStore'

interface SourceListeners {
  readonly store: ProjectStore
  toEngine(message: ToEngine): void
  /** A person plays: sound may start now. */
  beforeSound(): void
  midi(availability: MidiAvailability): void
  keyboard(settings: KeyboardSettings): void
}

/** Everything notes come from in a session: the computer keyboard, the browser's MIDI ports, the stand-ins' port. */
export function createSources(tell: SourceListeners) {
  const { store } = tell
  const sendInput = (event: SourceEvent) => tell.toEngine({ type: 'input', events: [event] })
  const keyboard = new ComputerKeyboard(
    window,
    (event) => onInput(event),
    (settings) => tell.keyboard(settings),
  )
  let standIns: StandInPort | undefined
  const listening = new Map<string, () => void>()

  function onInput(event: SourceEvent): void {
    tell.beforeSound()
    sendInput(event)
  }

  function ensureStandIns(project: Project): void {
    if (standIns || !project.sources.some((source) => source.kind === 'standIn')) return
    standIns = new StandInPort(standInPortId, standInPortName)
    listening.set(standInPortId, listenToPort(standIns, sendInput))
  }
  ensureStandIns(store.getState().project)
  const unsubscribe = store.subscribe((state) => ensureStandIns(state.project))

  void followMidiPorts((availability, ports) => {
    tell.midi(availability)
    adoptPorts(ports)
  })

  /** Listens to every port there is; one that vanished lets go of its keys. */
  function adoptPorts(ports: readonly MidiInputPort[]): void {
    for (const [id, stop] of listening) {
      if (id === standInPortId || ports.some((port) => port.id === id)) continue
      stop()
      listening.delete(id)
      tell.toEngine({ type: 'portLost', portId: id })
    }
    for (const port of ports) {
      if (listening.has(port.id)) continue
      listening.set(
        port.id,
        listenToPort(port, (event) => {
          seatNewStream(port, event)
          onInput(event)
        }),
      )
    }
  }

  /** A stream that no track listens to yet becomes a source with a track of its own, at its first note. */
  function seatNewStream(port: MidiInputPort, event: SourceEvent): void {
    if ((event.status & 0xf0) !== 0x90 || event.data2 === 0) return
    const channel = (event.status & 0x0f) + 1
    const { project, isReadOnly } = store.getState()
    if (isReadOnly || listenersOf({ portId: port.id, channel }, project.tracks).length > 0) return
    const name = `${port.name ?? 'Port'}, channel ${channel}`
    store.getState().apply(`seat ${name}`, (before) =>
      addSource(
        before,
        {
          id: `${port.id} ${channel}`,
          name,
          kind: 'midiPort',
          address: { portId: port.id, channel },
          description: port.name ?? 'MIDI port',
        },
        channel === 10 ? { kind: 'drums' } : { kind: 'program', program: 0 },
      ),
    )
  }

  /**
   * Has the seated stand-ins perform their parts from a position on.
   *
   * @param startMs the moment of that position, on the epoch clock
   */
  function performStandIns(startMs: Milliseconds, fromTicks: Ticks): void {
    const project = store.getState().project
    if (!standIns) return
    const tempoMap = new TempoMap(project.tempos)
    const seated = standInPlayers.filter((player) =>
      project.sources.some(
        (source) => source.kind === 'standIn' && source.address.channel === player.habits.channel,
      ),
    )
    const messages = seated
      .flatMap((player) => {
        // Every take is played anew: the seed moves with the takes.
        const habits = { ...player.habits, seed: player.habits.seed + project.takes.length * 101 }
        return performPart(player.part, habits, tempoMap, fromTicks)
      })
      .sort((a, b) => a.timeMs - b.timeMs)
    standIns.perform(startMs, messages)
  }

  return {
    input: onInput,
    performStandIns,
    stopStandIns: () => standIns?.stop(),
    close() {
      unsubscribe()
      keyboard.dispose()
      for (const stopListening of listening.values()) stopListening()
      standIns?.dispose()
    },
  }
}
