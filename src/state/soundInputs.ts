import { performSounding, soundingPlayers, type TimedTone } from '@/core/demo/soundingPlayers'
import type { EarPicture } from '@/core/pitch/ear'
import { programOf } from '@/core/pitch/listenerSettings'
import { type SoundInput, soundInputOf } from '@/core/pitch/soundInput'
import { atItsSpeed } from '@/core/project/atItsSpeed'
import { addSource } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import type { Project, Source } from '@/core/project/schema'
import { setSource } from '@/core/project/settings'
import { soundPortId } from '@/core/routing/ports'
import { boundedName } from '@/core/text/bounded'
import { TempoMap } from '@/core/time/tempoMap'
import type { Stretch } from '@/core/time/timeSchemas'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'
import type { MidiInputPort } from '@/engine/midiInput/midiInputs'
import { EarPort } from '@/engine/soundInput/earPort'
import {
  followSoundInputs,
  isListeningAllowed,
  type KnownSoundInput,
  microphone,
  soundInputsOfMachine,
} from '@/engine/soundInput/microphones'
import type { OpenSoundDevice, SoundDevice } from '@/engine/soundInput/soundDevice'
import { SoundingStandIn } from '@/engine/soundInput/soundingStandIn'
import type { LiveStore, SoundInputState } from './liveState'
import type { ProjectStore } from './projectStore'

interface SoundInputOptions {
  readonly store: ProjectStore
  readonly live: LiveStore
  /** Has a port listened to as a source. @returns ends it: its keys are let go */
  join(port: MidiInputPort): () => void
  /** A way for sound to where it is kept. */
  keeper(): MessagePort
  problem(text: string): void
}

/** A source that is listened to, or is about to be. */
interface Seat {
  readonly device: SoundDevice
  input: SoundInput
  port: EarPort | null
  leave: (() => void) | null
}

/** Passes of a loop that a stand-in plays at most. */
const mostPasses = 64

const isStandInDevice = (deviceId: string) => soundingPlayers.some((player) => player.deviceId === deviceId)

export type SoundInputs = ReturnType<typeof createSoundInputs>

/** The inputs of sound of a session: opened, followed as sources, lost and found again. */
export function createSoundInputs({ store, live, join, keeper, problem }: SoundInputOptions) {
  const seats = new Map<string, Seat>()
  const standIns = new Map<string, SoundingStandIn>()
  const pictureListeners = new Map<string, Set<(picture: EarPicture) => void>>()
  /** Inputs whose tuner is looked at. */
  const tuned = new Set<string>()
  let context: AudioContext | null = null
  let contextReady: Promise<AudioContext> | null = null
  let isClosed = false

  function setState(sourceId: string, state: SoundInputState | null): void {
    const { [sourceId]: _before, ...others } = live.getState().soundInputs
    live.setState({ soundInputs: state ? { ...others, [sourceId]: state } : others })
  }

  /** Browsers start an audio context only after a press. */
  function wake(): void {
    if (context?.state === 'suspended') context.resume().catch(() => undefined)
  }
  window.addEventListener('pointerdown', wake, true)
  window.addEventListener('keydown', wake, true)

  function hearing(): Promise<AudioContext> {
    contextReady ??= (async () => {
      const made = new AudioContext({ latencyHint: 'interactive' })
      context = made
      made.onstatechange = () => live.setState({ isHearing: made.state === 'running' })
      await made.audioWorklet.addModule('/worklets/ear.js')
      wake()
      live.setState({ isHearing: made.state === 'running' })
      return made
    })().catch((error) => {
      contextReady = null
      throw error
    })
    return contextReady
  }

  function deviceOf(sourceId: string, input: SoundInput): SoundDevice {
    const player = soundingPlayers.find(({ deviceId }) => deviceId === input.deviceId)
    if (!player) return microphone(knownIdOf(input), input.deviceName)
    let standIn = standIns.get(sourceId)
    if (!standIn || standIn.id !== player.deviceId) {
      standIn?.dispose()
      standIn = new SoundingStandIn(player)
      standIns.set(sourceId, standIn)
    }
    return standIn
  }

  /** Browsers give inputs other identifiers on another day: the name finds it again. */
  function knownIdOf({ deviceId, deviceName }: SoundInput): string {
    const { inputDevices } = live.getState()
    if (deviceId === '' || inputDevices.some(({ id }) => id === deviceId)) return deviceId
    return inputDevices.find(({ name }) => name === deviceName)?.id ?? deviceId
  }

  async function open(source: Source): Promise<void> {
    const input = source.soundInput
    if (!input) return
    if (store.getState().isReadOnly) {
      setState(source.id, {
        state: 'waiting',
        reason: 'This tab only reads the piece: the one that has it listens',
      })
      return
    }
    await close(source.id)
    const seat: Seat = { device: deviceOf(source.id, input), input, port: null, leave: null }
    seats.set(source.id, seat)
    setState(source.id, { state: 'opening' })
    const isCurrent = () => seats.get(source.id) === seat && !isClosed
    let opened: OpenSoundDevice | null = null
    try {
      const audio = await hearing()
      opened = await seat.device.open(audio, () => void lost(source.id, seat))
      if (!isCurrent()) {
        opened.close()
        return
      }
      seat.port = new EarPort(
        source.address.portId,
        source.name,
        audio,
        opened,
        seat.input,
        keeper(),
        (picture) => {
          for (const listener of pictureListeners.get(source.id) ?? []) listener(picture)
        },
        (reason) => {
          problem(`${source.name} is not followed any more: ${reason}. Press Listen to begin anew.`)
          void close(source.id).then(() =>
            setState(source.id, { state: 'waiting', reason: 'It was not followed any more' }),
          )
        },
      )
      if (tuned.has(source.id)) seat.port.tune(true)
      seat.port.keep(isKept())
      seat.leave = join(seat.port)
      const { channelCount, latencyMs, remarks } = opened
      setState(source.id, { state: 'listening', channelCount, latencyMs, remarks })
      void lookForDevices()
    } catch (error) {
      opened?.close()
      if (!isCurrent()) return
      seats.delete(source.id)
      const reason = error instanceof Error ? error.message : String(error)
      setState(source.id, { state: 'absent', reason })
    }
  }

  /** What may become a take: all that is recorded, and all that is listened to. */
  const isKept = () => store.getState().project.isListening || live.getState().transport.state === 'recording'
  let wasKept = isKept()
  function keepSound(): void {
    if (isKept() === wasKept) return
    wasKept = isKept()
    for (const { port } of seats.values()) port?.keep(wasKept)
  }
  const unsubscribeLive = live.subscribe(keepSound)

  async function close(sourceId: string): Promise<void> {
    const seat = seats.get(sourceId)
    if (!seat) return
    seats.delete(sourceId)
    setState(sourceId, null)
    const { port, leave } = seat
    if (!port) return
    await port.close()
    leave?.()
  }

  async function lost(sourceId: string, seat: Seat): Promise<void> {
    if (seats.get(sourceId) !== seat) return
    const name = seat.input.deviceName || 'The input'
    await close(sourceId)
    setState(sourceId, {
      state: 'absent',
      reason: `${name} was taken away. What was played until then is kept; plugged in again, it is listened to again`,
    })
  }

  async function lookForDevices(): Promise<void> {
    const inputDevices = await soundInputsOfMachine()
    if (isClosed) return
    live.setState({ inputDevices })
    const isThere = (input: SoundInput) =>
      inputDevices.some(({ id, name }) => id === input.deviceId || name === input.deviceName)
    const back = store
      .getState()
      .project.sources.filter(
        ({ id, soundInput }) =>
          soundInput && live.getState().soundInputs[id]?.state === 'absent' && isThere(soundInput),
      )
    if (back.length > 0 && (await isListeningAllowed())) for (const source of back) void open(source)
  }
  const looked = () =>
    lookForDevices().catch((error) => problem(`Inputs of sound could not be looked for: ${error}`))
  const unfollow = followSoundInputs(() => void looked())

  /** Opens what may be opened without asking, closes what is gone, and follows changed settings. */
  function adopt(project: Project, before: Project | null): void {
    for (const sourceId of [...seats.keys()])
      if (!project.sources.some(({ id }) => id === sourceId)) void close(sourceId)
    for (const source of project.sources) {
      const input = source.soundInput
      if (!input || before?.sources.includes(source)) continue
      const seat = seats.get(source.id)
      if (seat && seat.input.deviceId !== input.deviceId) void open(source)
      else if (seat && seat.input !== input) {
        seat.input = input
        seat.port?.change(input)
      } else if (!seat && !live.getState().soundInputs[source.id]) void openUnasked(source)
    }
  }

  async function openUnasked(source: Source): Promise<void> {
    const input = source.soundInput!
    if (isStandInDevice(input.deviceId) || (await isListeningAllowed())) await open(source)
    else
      setState(source.id, {
        state: 'waiting',
        reason: 'Press Listen: the browser asks whether this page may hear it',
      })
  }

  void looked().then(() => {
    if (!isClosed) adopt(store.getState().project, null)
  })
  const unsubscribe = store.subscribe((state, before) => {
    keepSound()
    if (state.isReadOnly && !before.isReadOnly) {
      for (const sourceId of [...seats.keys()]) void close(sourceId)
      live.setState({ soundInputs: {} })
      adopt(state.project, null)
    } else if (!state.isReadOnly && before.isReadOnly) {
      live.setState({ soundInputs: {} })
      adopt(state.project, null)
    } else if (state.project !== before.project) adopt(state.project, before.project)
  })

  function tonesOf(deviceId: string, fromTicks: Ticks, loop: Stretch | null): readonly TimedTone[] {
    const player = soundingPlayers.find((each) => each.deviceId === deviceId)!
    const { project } = store.getState()
    const { tempoMap } = contextOf(atItsSpeed(project))
    const variation = project.takes.length
    if (!loop) return performSounding(player, tempoMap, fromTicks, variation)
    const part = player.part.filter(
      ({ onsetTicks }) => onsetTicks >= loop.startTicks && onsetTicks < loop.endTicks,
    )
    const passMs = tempoMap.msAt(loop.endTicks) - tempoMap.msAt(loop.startTicks)
    return Array.from({ length: mostPasses }, (_, pass) =>
      performSounding({ ...player, part }, tempoMap, loop.startTicks, variation + pass).map((timed) => ({
        ...timed,
        timeMs: timed.timeMs + pass * passMs,
      })),
    ).flat()
  }

  return {
    /** Seats an input as a player with a track of its own, and listens to it: to be called from a press. */
    seat(device: KnownSoundInput, preset: SoundInput['preset'], inputChannel: number): void {
      wake()
      const player = soundingPlayers.find(({ deviceId }) => deviceId === device.id)
      const id = `sound-${crypto.randomUUID()}`
      const name = boundedName(player?.name ?? device.name)
      const source: Source = {
        id,
        name,
        kind: 'soundInput',
        address: { portId: soundPortId(id), channel: 1 },
        description: player ? `${player.description}, heard` : 'heard through an input',
        portName: boundedName(device.name),
        group: '',
        compensationMs: 0,
        soundInput: { ...soundInputOf(device.id, device.name, preset), inputChannel },
        effects: [],
      }
      setState(id, { state: 'opening' })
      store
        .getState()
        .apply(`seat ${name}`, (before) =>
          addSource(before, source, { kind: 'program', program: programOf[preset] }),
        )
      void open(source)
    },

    /** Opens an input, with a question where the browser wants to ask: to be called from a press. */
    listen(sourceId: string): void {
      wake()
      const source = store.getState().project.sources.find(({ id }) => id === sourceId)
      if (source) void open(source)
    },

    change(sourceId: string, label: string, settings: Partial<SoundInput>): void {
      store.getState().apply(label, (before) => {
        const source = before.sources.find(({ id }) => id === sourceId)
        if (!source?.soundInput) return before
        return setSource(before, sourceId, { soundInput: { ...source.soundInput, ...settings } })
      })
    },

    /** What an input is like, about 25 times a second. @returns ends it */
    onPicture(sourceId: string, listener: (picture: EarPicture) => void): () => void {
      const listeners = pictureListeners.get(sourceId) ?? new Set()
      pictureListeners.set(sourceId, listeners)
      listeners.add(listener)
      return () => listeners.delete(listener)
    },

    /** While a tuner is looked at. @returns ends it */
    tune(sourceId: string): () => void {
      tuned.add(sourceId)
      seats.get(sourceId)?.port?.tune(true)
      return () => {
        tuned.delete(sourceId)
        seats.get(sourceId)?.port?.tune(false)
      }
    },

    /** Resolves when everything that was played into the inputs until now has been handed on. */
    async settled(): Promise<void> {
      await Promise.all([...seats.values()].map(({ port }) => port?.settled()))
    },

    /** Has the stand-ins at the inputs play from a position on. @param startMs its moment, on the epoch clock */
    perform(startMs: Milliseconds, fromTicks: Ticks, loop: Stretch | null = null): void {
      for (const [sourceId, { port, input }] of seats)
        if (port)
          standIns
            .get(sourceId)
            ?.perform(startMs, tonesOf(input.deviceId, fromTicks, loop), port.contextSecondsAt)
            .catch((error) => problem(`${port.name} cannot play: ${error.message ?? error}`))
    },

    /** A stand-in plays along with strokes of the click, as late or early as they always are. @returns whether one sits there */
    strikeAlong(portId: string, timesMs: readonly Milliseconds[]): boolean {
      const source = store.getState().project.sources.find(({ address }) => address.portId === portId)
      const standIn = source && standIns.get(source.id)
      const port = source && seats.get(source.id)?.port
      const player = soundingPlayers.find(({ deviceId }) => deviceId === source?.soundInput?.deviceId)
      if (!standIn || !port || !player || timesMs.length < 2) return false
      const gapMs = timesMs[1]! - timesMs[0]!
      const part = timesMs.map((_, index) => ({
        onsetTicks: index * TICKS_PER_QUARTER,
        durationTicks: TICKS_PER_QUARTER / 2,
        key: player.part[0]!.key,
        velocity: 90,
      }))
      const tempoMap = new TempoMap([{ tick: 0, tempoBpm: 60_000 / gapMs }])
      standIn
        .perform(timesMs[0]!, performSounding({ ...player, part }, tempoMap, 0), port.contextSecondsAt)
        .catch((error) => problem(`${port.name} cannot play: ${error.message ?? error}`))
      return true
    },

    stopPerforming(): void {
      for (const standIn of standIns.values()) standIn.stop()
    },

    async close(): Promise<void> {
      isClosed = true
      unsubscribe()
      unsubscribeLive()
      unfollow()
      window.removeEventListener('pointerdown', wake, true)
      window.removeEventListener('keydown', wake, true)
      await Promise.all([...seats.keys()].map(close))
      for (const standIn of standIns.values()) standIn.dispose()
      await context?.close()
    },
  }
}
