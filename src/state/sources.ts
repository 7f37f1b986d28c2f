import { performFile } from '@/core/capture/filePlayer'
import { oneStrokeAtATime } from '@/core/capture/oneStrokeAtATime'
import { alongTheClick, performedPasses } from '@/core/capture/performedPasses'
import { type PerformedMessage, performPart } from '@/core/capture/performer'
import { performStandIn, seatedStandIns, standInPlayers, standInPorts } from '@/core/demo/harbourEvening'
import { programNames } from '@/core/midi/generalMidi'
import type { Instrument } from '@/core/midi/instrument'
import { atItsSpeed } from '@/core/project/atItsSpeed'
import { addSource, addSourceOn } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import type { Project, Source } from '@/core/project/schema'
import type { InputAddress } from '@/core/routing/address'
import { streamKey } from '@/core/routing/address'
import { cableName } from '@/core/routing/ports'
import { listenersOf } from '@/core/routing/route'
import { boundedName, nameWith } from '@/core/text/bounded'
import type { Stretch } from '@/core/time/timeSchemas'
import type { Milliseconds, Ticks } from '@/core/time/units'
import { findPortsByName } from '@/core/wiring/portsInUse'
import { epochNowMs, timeStampAt } from '@/engine/clock'
import { ComputerKeyboard, type KeyboardSettings } from '@/engine/midiInput/computerKeyboard'
import { HeldOnPorts } from '@/engine/midiInput/heldOnPorts'
import { InputForwarder } from '@/engine/midiInput/inputForwarder'
import {
  followMidiPorts,
  listenToPort,
  type MidiAvailability,
  type MidiInputPort,
  type MidiOutputPort,
  portIdOf,
} from '@/engine/midiInput/midiInputs'
import { whenPageIsFree } from '@/engine/midiInput/quiet'
import type { Activity, SourceEvent, ToEngine } from '@/engine/protocol'
import { StandInPort } from '@/engine/standIns/standInPort'
import type { PortMessage } from '@/engine/transport/portSender'
import { handOverMs } from '@/engine/transport/portSender'
import type { FilePlayers } from './filePlayers'
import type { ProjectStore } from './projectStore'

interface SourceListeners {
  readonly store: ProjectStore
  readonly files: FilePlayers
  toEngine(message: ToEngine): void
  /** A person plays: sound may start now. */
  beforeSound(): void
  midi(availability: MidiAvailability): void
  keyboard(settings: KeyboardSettings): void
  /** Every stream that plays gets a track of its own. */
  isSeatingEveryone(): boolean
  /** The track that waits for whoever plays next, once: it waits no more then; null: none does. */
  takeWaitingTrack(): string | null
  problem(text: string): void
  /** Resolves when everything that was played into inputs of sound has come. */
  soundHeard(): Promise<void>
}

export type Sources = ReturnType<typeof createSources>

/** Everything notes come from and go to in a session: the computer keyboard, MIDI ports, stand-ins, files. */
export function createSources(tell: SourceListeners) {
  const { store } = tell
  const forwarder = new InputForwarder((events) => tell.toEngine({ type: 'input', events }))
  const sendInput = forwarder.forward
  const keyboard = new ComputerKeyboard(
    window,
    (event) => onInput(event),
    (settings) => tell.keyboard(settings),
  )
  /** Ports with players who are not really there: stand-ins and files. */
  const playedPorts = new Map<string, StandInPort>()
  const listening = new Map<string, { readonly port: MidiInputPort; readonly stop: () => void }>()
  /** Ports that have vanished, while what they sent last is waited for. */
  const losing = new Map<string, () => void>()
  let outputs: readonly MidiOutputPort[] = []
  const toldOf = new Set<string>()
  const programs = new Map<string, number>()

  /** Says something of a port once. */
  function problemOnce(about: string, text: string): void {
    if (toldOf.has(about)) return
    toldOf.add(about)
    tell.problem(text)
  }

  function refuse(portName: string, reason: string): void {
    problemOnce(
      `refused ${portName}`,
      `Something that is no MIDI message came from ${portName} and was left out: ${reason}. Everything else from there is kept.`,
    )
  }

  function onInput(event: SourceEvent): void {
    tell.beforeSound()
    sendInput(event)
  }

  function ensurePlayedPorts(project: Project): void {
    for (const source of project.sources) {
      if (source.kind !== 'standIn' && source.kind !== 'midiFile') continue
      const { portId } = source.address
      if (playedPorts.has(portId)) continue
      const port = new StandInPort(portId, source.portName)
      playedPorts.set(portId, port)
      listenToPort(port, sendInput, (reason) => refuse(source.portName, reason))
    }
  }
  ensurePlayedPorts(store.getState().project)
  const unsubscribe = store.subscribe((state) => ensurePlayedPorts(state.project))

  void followMidiPorts((availability, ports) => {
    outputs = ports.outputs
    tell.midi(availability)
    if (availability.state === 'ready') findPortsAgain(availability.ports)
    adoptPorts(ports.inputs)
  })

  /** Ports that have other identifiers than on the day the project was set up. */
  function findPortsAgain(ports: Parameters<typeof findPortsByName>[1]): void {
    const { project, isReadOnly } = store.getState()
    const found = findPortsByName(project, ports)
    if (found !== project && !isReadOnly) store.getState().apply('find ports again by name', () => found)
  }

  /** Listens to every port there is; one that vanished lets go of its keys. */
  function adoptPorts(ports: readonly MidiInputPort[]): void {
    for (const [portId, { port }] of listening) if (!ports.includes(port)) void lose(portId)
    for (const port of ports) {
      const portId = portIdOf(port)
      if (listening.has(portId)) continue
      // Here again before the loss was told.
      losing.get(portId)?.()
      const portName = boundedName(port.name ?? 'Port')
      const stop = listenToPort(
        port,
        (event) => {
          const elsewhere = diverted.get(portId)
          if (elsewhere) {
            elsewhere(event)
            return
          }
          noticeStream(event, portName, 'midiPort')
          onInput(event)
        },
        (reason) => refuse(portName, reason),
      )
      listening.set(portId, { port, stop })
    }
  }

  /** A loss goes the way of the notes: what the port sent last is handed over before, however busy the page is. */
  async function lose(portId: string): Promise<void> {
    const atMs = epochNowMs()
    const { stop } = listening.get(portId)!
    listening.delete(portId)
    const beLost = () => {
      if (losing.get(portId) !== beLost) return
      losing.delete(portId)
      stop()
      forwarder.flush()
      tell.toEngine({ type: 'portLost', portId, atMs })
    }
    losing.set(portId, beLost)
    await whenPageIsFree()
    beLost()
  }

  /**
   * A stream that no track listens to yet becomes a source with a track of its own, at its first note; while everybody is
   * being seated, also one that only a track for any channel hears.
   */
  function noticeStream(event: SourceEvent, portName: string, kind: Source['kind']): void {
    const channel = (event.status & 0x0f) + 1
    const address: InputAddress = { portId: event.portId, channel }
    if ((event.status & 0xf0) === 0xc0) programs.set(`${channel} ${event.portId}`, event.data1)
    if ((event.status & 0xf0) !== 0x90 || event.data2 === 0) return
    seatStream(address, portName, kind)
  }

  function seatStream(address: InputAddress, portName: string, kind: Source['kind']): void {
    const { project, isReadOnly } = store.getState()
    if (isReadOnly || address.channel === null) return
    const isSeated = project.sources.some(
      (source) => source.address.portId === address.portId && source.address.channel === address.channel,
    )
    const isHeard =
      listenersOf({ portId: address.portId, channel: address.channel }, project.tracks).length > 0
    if (isSeated || (isHeard && !tell.isSeatingEveryone())) return
    const program = programs.get(`${address.channel} ${address.portId}`)
    const isDrums = address.channel === 10
    const instrument: Instrument = isDrums ? { kind: 'drums' } : { kind: 'program', program: program ?? 0 }
    const what = isDrums
      ? 'drums'
      : program === undefined
        ? `channel ${address.channel}`
        : programNames[program]
    const source: Source = {
      id: streamKey(address),
      name: nameWith(portName, `, ${what}`),
      kind,
      address,
      description: kind === 'cable' ? 'over a cable' : portName,
      portName,
      group: '',
      compensationMs: 0,
      soundInput: null,
      effects: [],
    }
    const waitingTrackId = tell.takeWaitingTrack()
    if (waitingTrackId !== null) {
      store
        .getState()
        .apply('assign a track by playing', (before) => addSourceOn(before, source, waitingTrackId))
      return
    }
    store
      .getState()
      .apply(`seat ${source.name}`, (before) => addSource(before, source, instrument), 'seat streams', 1500)
  }

  /** Streams over cables reach the engine without passing here: they are noticed by what they played. */
  function onActivity(events: readonly Activity[]): void {
    for (const event of events) {
      const cable = cableName(event.portId)
      if (cable === null || !event.isOn) continue
      seatStream({ portId: event.portId, channel: event.channel }, cable, 'cable')
    }
  }

  /**
   * Has the seated stand-ins and file players perform from a position on; in a loop once for each pass, anew each time.
   *
   * @param startMs the moment of that position, on the epoch clock
   */
  function perform(startMs: Milliseconds, fromTicks: Ticks, loop: Stretch | null = null): void {
    const project = store.getState().project
    const tempoMap = contextOf(atItsSpeed(project)).tempoMap
    const byPort = new Map<string, PerformedMessage[]>()
    const add = (portId: string, messages: readonly PerformedMessage[]) => {
      const known = byPort.get(portId) ?? []
      for (const message of messages) known.push(message)
      byPort.set(portId, known)
    }
    for (const player of seatedStandIns(project)) {
      // Every take is played anew: the slips change with the takes.
      const variation = project.takes.length
      add(
        player.portId,
        performedPasses(player.part, tempoMap, fromTicks, loop, (part, from, pass) =>
          performStandIn({ ...player, part }, tempoMap, from, variation + pass),
        ),
      )
    }
    for (const { portId, parts } of tell.files.seated(project))
      add(portId, performFile(parts, tempoMap, fromTicks))
    for (const [portId, messages] of byPort)
      playedPorts
        .get(portId)
        ?.perform(startMs, oneStrokeAtATime(messages.sort((a, b) => a.timeMs - b.timeMs)))
  }

  /** Ports that somebody else listens to for a while. */
  const diverted = new Map<string, (event: SourceEvent) => void>()

  const held = new HeldOnPorts()
  /** Ends all that sounds on MIDI ports: at once, and again behind what was handed over for later. For a page that goes. */
  function letGo(): void {
    for (const { portId, bytes } of held.letGo()) {
      const output = outputs.find((port) => portIdOf(port) === portId)
      output?.send(bytes)
      output?.send(bytes, timeStampAt(epochNowMs() + 2 * handOverMs))
    }
  }

  /** Hands messages to MIDI ports at their time. */
  function send(messages: readonly PortMessage[]): void {
    for (const { portId, timeMs, bytes } of messages) {
      const output = outputs.find((port) => portIdOf(port) === portId)
      if (!output) continue
      try {
        output.send(bytes, Math.max(performance.now(), timeStampAt(timeMs)))
        held.follow({ portId, bytes })
      } catch (error) {
        const portName = output.name ?? 'A port'
        problemOnce(
          `sent ${portId}`,
          `${portName} does not take what is sent to it (${error instanceof Error ? error.message : error}). The other ports get theirs.`,
        )
      }
    }
  }

  return {
    input: onInput,
    /** Resolves when everything that ports had sent is handed over. */
    async handedOver(): Promise<void> {
      await Promise.all([whenPageIsFree(), tell.soundHeard()])
      // A loss that waits for the same may find the page free a moment later: it belongs to what was before.
      for (const beLost of [...losing.values()]) beLost()
      forwarder.flush()
    },
    /** Listens to a port that is none of the machine's MIDI. @returns ends it: what it holds is let go */
    join(port: MidiInputPort): () => void {
      const stop = listenToPort(port, onInput, (reason) => refuse(port.name ?? port.id, reason))
      return () => {
        stop()
        forwarder.flush()
        tell.toEngine({ type: 'portLost', portId: port.id, atMs: epochNowMs() })
      }
    },
    onActivity,
    send,
    letGo,
    /** What comes from a port goes to a listener alone. @returns ends it */
    divert(portId: string, listener: (event: SourceEvent) => void): () => void {
      diverted.set(portId, listener)
      return () => diverted.delete(portId)
    },
    perform,
    stopPerforming() {
      for (const port of playedPorts.values()) port.stop()
    },
    /** A stand-in plays along to the click, as late or early as they always are. */
    strikeAlong(address: InputAddress, timesMs: readonly Milliseconds[]) {
      const player = standInPlayers.find(
        ({ portId, habits }) => portId === address.portId && habits.channel === address.channel,
      )
      const port = playedPorts.get(address.portId)
      const along = player && alongTheClick(timesMs, player.part[0]!.key)
      if (along && port) port.perform(timesMs[0]!, performPart(along.part, player.habits, along.tempoMap, 0))
    },
    isStandIn: (portId: string) => standInPorts.some((port) => port.portId === portId),
    close() {
      unsubscribe()
      keyboard.dispose()
      forwarder.close()
      for (const { stop } of listening.values()) stop()
      for (const beLost of losing.values()) beLost()
      for (const port of playedPorts.values()) port.dispose()
    },
  }
}
