import { Resampler } from '../sound/resample'
import { type FollowedMessage, FollowedMidi } from './followedMidi'
import { type FollowedEvent, type FollowedFrame, LineFollower } from './lineFollower'
import { frequencyOfKey, listeningRate } from './listenerSettings'
import type { SoundInput } from './soundInput'
import { CutOff, problemsOfSound, type SoundProblem } from './soundRemarks'
import { type TunedPitch, Tuner, tunerWindow } from './tuner'

/** What an input is like at the moment; times are in its sound. */
export interface EarPicture {
  /** How much of the sound has been heard. */
  readonly heardMs: number
  /** The highest since the last picture, in decibels below full scale; −120 for nothing. */
  readonly peakDb: number
  readonly frames: readonly FollowedFrame[]
  readonly events: readonly FollowedEvent[]
  /** What is wrong with it, of the last seconds. */
  readonly problem: SoundProblem | null
  /** Only while a tuner is looked at. */
  readonly tuned: TunedPitch | null
}

/** What is wrong is told from this much sound. */
const judgedSeconds = 4
const judgedFrames = judgedSeconds * 100
/** Only asked so often: it takes as long as following a quarter of a second. */
const judgedEverySeconds = 2
const silentDb = -85
/** Peaks below this leave soft notes in the noise. */
const weakPeakDb = -36
const gentleProblems: readonly SoundProblem[] = ['hums']

/**
 * Listens to one channel of an input while it is played: notes, level, what is wrong, and the tone for a tuner. In whatever pieces the
 * sound comes, the same is heard.
 */
export class Ear {
  private readonly resampler: Resampler
  private readonly follower: LineFollower
  private readonly midi: FollowedMidi
  private readonly past = new Float32Array(listeningRate * judgedSeconds)
  private pastAt = 0
  private pastFrames: FollowedFrame[] = []
  private readonly cutOff = new CutOff()
  private untilJudged = listeningRate * judgedEverySeconds
  private problem: SoundProblem | null = null
  private peak = 0
  private loudestPeak = 0
  private heardSamples = 0
  private frames: FollowedFrame[] = []
  private events: FollowedEvent[] = []
  private readonly tuner: Tuner
  isTuning = false
  /** What was heard in the piece that was pushed last. */
  latestFrames: readonly FollowedFrame[] = []

  /** @param deviceRate samples to the second of what is pushed */
  constructor(
    private readonly deviceRate: number,
    private readonly input: SoundInput,
  ) {
    this.resampler = new Resampler(deviceRate, listeningRate)
    this.follower = new LineFollower(input)
    this.midi = new FollowedMidi(input.doesBend)
    this.tuner = new Tuner(input.concertHz)
  }

  /** @returns what there is to send now */
  push(samples: Float32Array): FollowedMessage[] {
    this.heardSamples += samples.length
    for (const sample of samples) this.peak = Math.max(this.peak, Math.abs(sample))
    this.cutOff.push(samples)
    const heard = this.resampler.push(samples)
    this.remember(heard)
    return this.follow(this.follower.push(heard))
  }

  /** The input is gone, or is listened to otherwise from now on: what sounds ends. */
  end(): FollowedMessage[] {
    return this.follow(this.follower.end())
  }

  /** What happened since the last picture. */
  picture(): EarPicture {
    const { frames, events, peak } = this
    this.loudestPeak = Math.max(this.loudestPeak, peak)
    this.frames = []
    this.events = []
    this.peak = 0
    return {
      heardMs: (this.heardSamples / this.deviceRate) * 1000,
      peakDb: decibels(peak),
      frames,
      events,
      problem: this.problem,
      tuned: this.isTuning ? this.tuner.hear(this.latest(tunerWindow)) : null,
    }
  }

  private follow(events: FollowedEvent[]): FollowedMessage[] {
    const frames = this.follower.takeFrames()
    this.latestFrames = frames
    for (const frame of frames) this.pastFrames.push(frame)
    if (this.pastFrames.length > judgedFrames * 2) this.pastFrames = this.pastFrames.slice(-judgedFrames)
    if (this.frames.length > judgedFrames) this.frames = []
    if (this.events.length > judgedFrames) this.events = []
    this.frames.push(...frames)
    this.events.push(...events)
    return this.midi.messagesOf(events, frames)
  }

  private remember(samples: Float32Array): void {
    for (const sample of samples) {
      this.past[this.pastAt] = sample
      this.pastAt = (this.pastAt + 1) % this.past.length
    }
    this.untilJudged -= samples.length
    if (this.untilJudged > 0) return
    this.untilJudged = listeningRate * judgedEverySeconds
    this.problem = this.judge()
    this.loudestPeak = this.peak
    this.cutOff.forget()
  }

  private judge(): SoundProblem | null {
    const loudestDb = decibels(Math.max(this.loudestPeak, this.peak))
    if (this.cutOff.isHeard) return 'clipped'
    if (loudestDb < silentDb) return 'silent'
    const frames = this.pastFrames.slice(-judgedFrames).map(({ levelDb, place, confidence }) => ({
      levelDb,
      clarity: confidence,
      candidates:
        place === null
          ? []
          : [{ frequencyHz: frequencyOfKey(place, this.input.concertHz), probability: confidence }],
    }))
    const isPlayed = frames.some(({ levelDb }) => levelDb > this.input.gateDb)
    const problems = problemsOfSound(this.latest(this.past.length), frames)
    // While nobody plays, what is there is the room: only its hum is worth a word.
    if (!isPlayed) return problems.find((problem) => gentleProblems.includes(problem)) ?? null
    // Of a sound that is too weak, no more can be said.
    if (loudestDb < weakPeakDb) return problems.find((problem) => gentleProblems.includes(problem)) ?? 'weak'
    // A hum beneath the lowest key has no pitch that is looked for.
    const isHum = problems[0] === 'noise' && problems.includes('hums')
    return isHum ? 'hums' : (problems[0] ?? null)
  }

  /** The last samples, oldest first. */
  private latest(count: number): Float32Array {
    const samples = new Float32Array(count)
    const from = (this.pastAt - count + this.past.length) % this.past.length
    const atEnd = Math.min(count, this.past.length - from)
    samples.set(this.past.subarray(from, from + atEnd))
    samples.set(this.past.subarray(0, count - atEnd), atEnd)
    return samples
  }
}

const decibels = (peak: number) => (peak < 1e-6 ? -120 : 20 * Math.log10(peak))
