import { standInAt } from '@/core/demo/soundingPlayers'
import type { EarPicture } from '@/core/pitch/ear'
import { programOf } from '@/core/pitch/listenerSettings'
import { type SoundInput, soundInputOf } from '@/core/pitch/soundInput'
import { addSource } from '@/core/project/commands'
import type { Project, Source } from '@/core/project/schema'
import { setSource } from '@/core/project/settings'
import { soundPortId } from '@/core/routing/ports'
import { boundedName } from '@/core/text/bounded'
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
import { createHeardStandIns } from './heardStandIns'
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

export type SoundInputs = ReturnType<typeof createSoundInputs>

/** The inputs of sound of a session: opened, followed as sources, lost and found again. */
export function createSoundInputs({ store, live, join, keeper, problem }: SoundInputOptions) {
  const seats = new Map<string, Seat>()
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

  function deviceOf(input: SoundInput): SoundDevice {
    const player = standInAt(input.deviceId)
    return player ? new SoundingStandIn(player) : microphone(knownIdOf(input), input.deviceName)
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
    const seat: Seat = { device: deviceOf(input), input, port: null, leave: null }
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
        (lostMs) =>
          problem(
            `${(lostMs / 1000).toFixed(1)} s of the sound of ${source.name} did not arrive: this machine was too busy to take it from the device. What came before and after is kept where it was played.`,
          ),
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
      await close(source.id)
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
    const { device, port, leave } = seat
    if (port) {
      await port.close()
      leave?.()
    }
    if (device instanceof SoundingStandIn) device.dispose()
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
    // The system's own input is whichever there is.
    const isThere = (input: SoundInput) =>
      inputDevices.some(
        ({ id, name }) => input.deviceId === '' || id === input.deviceId || name === input.deviceName,
      )
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
      const earlier = before?.sources.find(({ id }) => id === source.id)?.soundInput
      const isAnother = earlier && earlier.deviceId !== input.deviceId
      if (seat && seat.input.deviceId !== input.deviceId) void open(source)
      else if (seat && seat.input !== input) {
        seat.input = input
        seat.port?.change(input)
      } else if (!seat && (isAnother || !live.getState().soundInputs[source.id])) void openUnasked(source)
    }
  }

  async function openUnasked(source: Source): Promise<void> {
    const input = source.soundInput!
    if (standInAt(input.deviceId) || (await isListeningAllowed())) await open(source)
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

  const heardStandIns = createHeardStandIns(
    store,
    () =>
      [...seats.values()].flatMap(({ device, port }) =>
        port && device instanceof SoundingStandIn ? [{ standIn: device, port }] : [],
      ),
    problem,
  )

  return {
    /** Seats an input as a player with a track of its own, and listens to it: to be called from a press. */
    seat(device: KnownSoundInput, preset: SoundInput['preset'], inputChannel: number): void {
      wake()
      const player = standInAt(device.id)
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

    ...heardStandIns,

    async close(): Promise<void> {
      isClosed = true
      unsubscribe()
      unsubscribeLive()
      unfollow()
      window.removeEventListener('pointerdown', wake, true)
      window.removeEventListener('keydown', wake, true)
      await Promise.all([...seats.keys()].map(close))
      await context?.close()
    },
  }
}
