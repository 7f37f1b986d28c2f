import { programsIn } from '@/core/project/create'
import type { Project, Track } from '@/core/project/schema'
import { type ClockSample, clockTimes, contextSecondsAt, epochAt, epochNowMs } from '@/engine/clock'
import type { ToEngine } from '@/engine/protocol'
import { bankId } from '@/engine/synth/banks'
import { channelSoundOf, clickSynthChannel } from '@/engine/synth/channelSound'
import type { SynthMessage, SynthOptions, SynthReport } from '@/engine/synth/commands'
import { isPreparedAhead } from './preparedAhead'

/** `paused`: it ran, and the browser or the machine has stopped it. */
export type AudioState = 'waiting for a key or click' | 'on' | 'paused' | 'unavailable'

const clockEveryMs = 250

/** Whom the sound tells what. */
interface SoundListeners {
  engine(message: ToEngine, transfer?: Transferable[]): void
  state(state: AudioState): void
  problem(text: string): void
}

/** The audio side of a session: the context and its clock, the synthesiser, instruments fetched as they are needed. */
export function createSound(tell: SoundListeners) {
  let audioContext: AudioContext | undefined
  let synthNode: AudioWorkletNode | undefined
  const loadedBanks = new Map<string, Promise<void>>()
  const synthChannels = new Map<string, number>()
  const synthReportListeners = new Set<(report: SynthReport) => void>()

  function tellSynth(message: SynthMessage, transfer: Transferable[] = []): void {
    synthNode?.port.postMessage(message, transfer)
  }

  /** Starts the sound; must be called from a key press or click, as browsers ask. */
  let startingAudio: Promise<void> | undefined
  function startAudio(): Promise<void> {
    if (audioContext && audioContext.state === 'suspended') void audioContext.resume()
    startingAudio ??= (async () => {
      try {
        const context = new AudioContext({
          latencyHint: 'interactive',
          // In a test with a fast clock as much is computed for each of its seconds.
          ...(clockTimes > 1 ? { sampleRate: 48_000 / clockTimes } : {}),
        })
        audioContext = context
        let hasRun = false
        context.onstatechange = () => {
          hasRun ||= context.state === 'running'
          tell.state(context.state === 'running' ? 'on' : hasRun ? 'paused' : 'waiting for a key or click')
        }
        await context.audioWorklet.addModule('/worklets/synth.js')
        const node = new AudioWorkletNode(context, 'unbroken-synth', {
          numberOfInputs: 0,
          outputChannelCount: [2],
          processorOptions: { decodesAhead: isPreparedAhead() } satisfies SynthOptions,
        })
        node.connect(context.destination)
        node.port.onmessage = (event: MessageEvent<SynthReport>) => {
          if (event.data.type === 'bankFailed')
            tell.problem(`An instrument could not be loaded: ${event.data.reason}`)
          for (const listener of synthReportListeners) listener(event.data)
        }
        synthNode = node
        const channel = new MessageChannel()
        node.port.postMessage({ type: 'connect', port: channel.port1 } satisfies SynthMessage, [
          channel.port1,
        ])
        tell.engine({ type: 'connectSynth', port: channel.port2 }, [channel.port2])
        await context.resume()
        sampleClock()
        setProject(wantedProject)
      } catch (error) {
        tell.state('unavailable')
        tell.problem(
          `There is no sound: ${error instanceof Error ? error.message : error}. Recording and everything else work.`,
        )
      }
    })()
    return startingAudio
  }

  let lastSample: ClockSample | null = null

  function sampleClock(): void {
    if (audioContext?.state !== 'running') return
    const stamp = audioContext.getOutputTimestamp()
    const sample: ClockSample =
      stamp.performanceTime && stamp.contextTime
        ? { contextSeconds: stamp.contextTime, epochMs: epochAt(stamp.performanceTime) }
        : { contextSeconds: audioContext.currentTime, epochMs: epochNowMs() }
    lastSample = sample
    tell.engine({ type: 'clock', sample })
  }
  const clockTimer = setInterval(sampleClock, clockEveryMs)

  function loadBank(instrument: number | 'drums'): Promise<void> {
    const id = bankId(instrument)
    let loading = loadedBanks.get(id)
    if (!loading) {
      loading = fetch(`/instruments/${id}.sf3`)
        .then((response) => {
          if (!response.ok) throw new Error(`${response.status}`)
          return response.arrayBuffer()
        })
        .then((bytes) => tellSynth({ type: 'bank', id, bytes }, [bytes]))
        .catch((error) => {
          loadedBanks.delete(id)
          pushedSound.clear()
          tell.problem(
            `The instrument could not be fetched (${error instanceof Error ? error.message : error}); the track stays silent until it can.`,
          )
        })
      loadedBanks.set(id, loading)
    }
    return loading
  }

  function synthChannelOf(trackId: string): number {
    let channel = synthChannels.get(trackId)
    if (channel === undefined) {
      channel = synthChannels.size + 1
      synthChannels.set(trackId, channel)
    }
    return channel
  }

  const pushedSound = new Map<string, string>()
  let wantedProject: Project | undefined

  /** Gives every track its instrument, level and place; sounds that are needed are fetched. */
  function setProject(project: Project | undefined): void {
    wantedProject = project
    if (!synthNode || !project) return
    const set = (
      channel: number,
      instrument: number | 'drums',
      { volume, pan, tuningCents }: Pick<Track, 'volume' | 'pan' | 'tuningCents'>,
    ) => {
      const wanted = JSON.stringify([instrument, volume, pan, tuningCents])
      if (pushedSound.get(String(channel)) === wanted) return
      pushedSound.set(String(channel), wanted)
      tellSynth({ type: 'instrument', synthChannel: channel, instrument })
      tellSynth({ type: 'level', synthChannel: channel, volume, pan, tuningCents })
      void loadBank(instrument)
    }
    const { side } = project.click
    set(clickSynthChannel, 'drums', {
      volume: 0.7,
      pan: side === 'left' ? -1 : side === 'right' ? 1 : 0,
      tuningCents: 0,
    })
    for (const track of project.tracks) {
      const sound = channelSoundOf(track)
      if (!sound) continue
      set(synthChannelOf(track.id), sound.instrument, sound)
      if (track.instrument.kind === 'program') for (const program of programsIn(track)) void loadBank(program)
    }
  }

  return {
    start: startAudio,
    setProject,
    synthChannelOf,
    onReport(listener: (report: SynthReport) => void) {
      synthReportListeners.add(listener)
      return () => synthReportListeners.delete(listener)
    },
    context: () => audioContext,
    /** Audio time at which something must begin to be heard at a moment; null while there is no sound. */
    audioSecondsAt: (epochMs: number) => lastSample && contextSecondsAt(lastSample, epochMs),
    measure: (isOn: boolean) => tellSynth({ type: 'measure', isOn }),
    async close() {
      clearInterval(clockTimer)
      await audioContext?.close()
    },
  }
}
