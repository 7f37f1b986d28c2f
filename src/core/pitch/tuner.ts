import { frequencyOfKey, keyOfFrequency, listeningRate } from './listenerSettings'
import { candidatesOf, likeliestOf, periodsOf } from './periods'
import { SquareDifference } from './squareDifference'

/** A tone as a tuner tells it. */
export interface TunedPitch {
  readonly frequencyHz: number
  /** Between the keys of equal temperament, 69 being A4. */
  readonly place: number
  /** How exactly the sound repeats, from 0 to 1. */
  readonly clarity: number
}

/** About a fifth of a second: nearly six periods of the lowest string of a bass. */
export const tunerWindow = 4096
/** What is higher is heard in the latter half, so that the tone before has left sooner. */
const shortWindow = 2048
const lowHz = 110
const lowestHz = 26
const highestHz = 2200
const leastClarity = 0.8
/** The middle of so many readings is told, so that no single one makes the needle jump. */
const steadied = 3
/** A reading this far from those before it is of another tone, in keys. */
const otherTone = 0.6

/**
 * Tells one tone as exactly as the ear of a tuner asks for: to about a hundredth of a semitone. The periods are those of McLeod and
 * Wyvill (`periodsOf`), read at their last multiple inside a long window.
 */
export class Tuner {
  private readonly long = new SquareDifference(tunerWindow)
  private readonly short = new SquareDifference(shortWindow)
  private recent: number[] = []

  constructor(private readonly concertHz: number) {}

  /** @param samples at `listeningRate`; the last `tunerWindow` of them are heard. @returns null when no tone is there */
  hear(samples: Float32Array): TunedPitch | null {
    const near = this.read(this.short, samples)
    const isHigh = near.best !== null && near.best.frequencyHz > lowHz && near.clarity > leastClarity
    const { best, clarity } = isHigh ? near : this.read(this.long, samples)
    if (!best || clarity < leastClarity || best.probability < 0.4) {
      this.recent = []
      return null
    }
    const place = keyOfFrequency(best.frequencyHz, this.concertHz)
    this.recent = [...this.recent.filter((other) => Math.abs(other - place) < otherTone), place].slice(
      -steadied,
    )
    const sorted = [...this.recent].sort((a, b) => a - b)
    const middle = sorted[sorted.length >> 1]!
    return { frequencyHz: frequencyOfKey(middle, this.concertHz), place: middle, clarity }
  }

  private read(alike: SquareDifference, samples: Float32Array) {
    const likeness = alike.of(samples, samples.length - alike.windowSamples)
    const periods = periodsOf(likeness, listeningRate, alike.windowSamples * 0.6)
    const clarity = periods.reduce((most, period) => Math.max(most, period.clarity), 0)
    const inRange = candidatesOf(periods).filter(
      ({ frequencyHz }) => frequencyHz > lowestHz && frequencyHz < highestHz,
    )
    return { best: likeliestOf(inRange), clarity }
  }
}
