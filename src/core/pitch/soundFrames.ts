import { AttackStrength } from './attackStrength'
import { frequencyOfKey, keyOfFrequency, type ListenerSettings, listeningRate } from './listenerSettings'
import { candidatesOf, likeliestOf, type PitchCandidate, periodsOf } from './periods'
import { SquareDifference } from './squareDifference'

/** Ten milliseconds from frame to frame. */
export const frameMs = 10
/** Attacks are looked for more often. */
const attacksToFrame = 2

/** A moment of sound. */
export interface SoundFrame {
  /** Its middle, from the beginning of the sound. */
  readonly timeMs: number
  /** Mean power in decibels below full scale; −120 for nothing. */
  readonly levelDb: number
  /** How exactly it repeats, from 0 to 1. */
  readonly clarity: number
  readonly candidates: readonly PitchCandidate[]
}

/** A sound, listened to moment by moment. */
export interface ListenedSound {
  /** One channel at `listeningRate`. */
  readonly samples: Float32Array
  readonly frames: readonly SoundFrame[]
  /** How strongly something begins, every `frameMs / 2`, the first at 0 (`AttackStrength`). */
  readonly attacks: Float32Array
  readonly attackStepMs: number
}

const shortWindow = 1024
const longWindow = 2048
const attackWindow = 512
/** Below this the short window holds less than three periods. */
const lowHz = 75

/**
 * Listens to a whole sound. Yields after each second of it, so that who waits can be told how far it is, and may stop.
 *
 * @param samples one channel at `listeningRate`
 * @yields the part that is done, from 0 to 1
 */
export function* listenTo(
  samples: Float32Array,
  settings: ListenerSettings,
): Generator<number, ListenedSound, void> {
  const analysis = new FrameAnalysis(settings)
  const attack = new AttackStrength(attackWindow, 2)
  const count = Math.max(1, Math.ceil((samples.length / listeningRate) * (1000 / frameMs)))
  const step = (listeningRate * frameMs) / 1000
  const frames: SoundFrame[] = []
  const attacks = new Float32Array(count * attacksToFrame)
  for (let index = 0; index < count; index++) {
    const middle = Math.round(index * step)
    frames.push(analysis.frameAround(samples, middle, index * frameMs))
    for (let part = 0; part < attacksToFrame; part++) {
      const place = Math.round((index + part / attacksToFrame) * step)
      attacks[index * attacksToFrame + part] = attack.of(samples, place - attackWindow / 2)
    }
    if (index % 100 === 99) yield index / count
  }
  return { samples, frames, attacks, attackStepMs: frameMs / attacksToFrame }
}

/** Finds level and possible pitches of windows. */
export class FrameAnalysis {
  private readonly short = new SquareDifference(shortWindow)
  private readonly long: SquareDifference | null
  private readonly lowestHz: number
  private readonly highestHz: number

  constructor(settings: ListenerSettings) {
    this.lowestHz = frequencyOfKey(settings.lowKey - 0.7, settings.concertHz)
    this.highestHz = frequencyOfKey(settings.highKey + 0.7, settings.concertHz)
    this.long = this.lowestHz < lowHz ? new SquareDifference(longWindow) : null
  }

  /** @param middle the sample that the window lies around */
  frameAround(samples: Float32Array, middle: number, timeMs: number): SoundFrame {
    const levelDb = levelOf(samples, middle - shortWindow / 4, shortWindow / 2)
    if (levelDb < -90) return { timeMs, levelDb, clarity: 0, candidates: [] }
    const near = this.heard(this.short, samples, middle)
    if (!this.long) return { timeMs, levelDb, ...near }
    const far = this.heard(this.long, samples, middle)
    const likeliest = likeliestOf(far.candidates)
    const isLow = likeliest !== null && likeliest.frequencyHz < lowHz && far.clarity > 0.75
    return { timeMs, levelDb, ...(isLow ? far : near) }
  }

  private heard(likeness: SquareDifference, samples: Float32Array, middle: number) {
    const { windowSamples } = likeness
    const longest = Math.min(windowSamples * 0.62, (listeningRate / this.lowestHz) * 2.2)
    const periods = periodsOf(likeness.of(samples, middle - windowSamples / 2), listeningRate, longest)
    const clarity = periods.reduce((most, period) => Math.max(most, period.clarity), 0)
    return {
      clarity,
      candidates: candidatesOf(periods).filter(
        ({ frequencyHz }) => frequencyHz >= this.lowestHz && frequencyHz <= this.highestHz,
      ),
    }
  }
}

/** What a key sounds at in some frames: the middle of all that was heard near it, or what it should sound at. @param key with its tuning */
export function soundingHz(frames: readonly SoundFrame[], key: number, concertHz: number): number {
  const heard = frames
    .flatMap(({ candidates }) => candidates.map(({ frequencyHz }) => frequencyHz))
    .filter((frequencyHz) => Math.abs(keyOfFrequency(frequencyHz, concertHz) - key) < 0.7)
    .sort((a, b) => a - b)
  return heard[heard.length >> 1] ?? frequencyOfKey(key, concertHz)
}

/**
 * How loud a sound is where it is loud: the level of its loudest moments, without the few that may be a click. One note in minutes of
 * silence counts.
 *
 * @param levelsDb of moments of 10 to 20 ms, in any order
 */
export function loudestDb(levelsDb: readonly number[]): number {
  const sorted = [...levelsDb].sort((a, b) => b - a)
  return sorted[Math.min(clickMoments, Math.floor(sorted.length / 50))] ?? -120
}
const clickMoments = 5

/** Mean power of some samples, in decibels below full scale. */
export function levelOf(samples: Float32Array, from: number, count: number): number {
  let power = 0
  for (let index = from; index < from + count; index++) {
    const sample = samples[index] ?? 0
    power += sample * sample
  }
  return power === 0 ? -120 : Math.max(-120, 10 * Math.log10(power / count))
}
