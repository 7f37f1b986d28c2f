import { frequencyOfKey, keyOfFrequency, type ListenerSettings, listeningRate } from './listenerSettings'
import { candidatesOf, type PitchCandidate, periodsOf } from './periods'
import { SquareDifference } from './squareDifference'

/** Lengths of the windows that sound is heard through while it is played, in samples at `listeningRate`: 9 to 93 ms. */
export const windowSamples = [192, 224, 256, 288, 320, 352, 384, 448, 512, 640, 768, 1024, 2048] as const
export type WindowSamples = (typeof windowSamples)[number]

/** What is heard through one window. */
export interface HeardPitch {
  readonly window: WindowSamples
  readonly candidates: readonly PitchCandidate[]
  /** The likeliest within the range; NaN when there is none. */
  readonly frequencyHz: number
  /** The same in keys, 60 being middle C. */
  readonly place: number
  /** From 0 to 1. */
  readonly probability: number
  /** How exactly the sound repeats at all, from 0 to 1. */
  readonly clarity: number
}

/** Hears the latest sound through windows of several lengths. */
export class PitchWindows {
  private readonly alike = new Map(windowSamples.map((size) => [size, new SquareDifference(size)]))
  private readonly lowestHz: number
  private readonly highestHz: number

  constructor(private readonly settings: ListenerSettings) {
    this.lowestHz = frequencyOfKey(settings.lowKey - 0.7, settings.concertHz)
    this.highestHz = frequencyOfKey(settings.highKey + 0.7, settings.concertHz)
  }

  /** @param end where the window ends in the samples */
  hear(samples: Float32Array, end: number, window: WindowSamples): HeardPitch {
    const longest = Math.min(reachOf(window), (listeningRate / this.lowestHz) * 1.1)
    const likeness = this.alike.get(window)!.of(samples, end - window)
    const periods = periodsOf(likeness, listeningRate, longest)
    const clarity = periods.reduce((most, period) => Math.max(most, period.clarity), 0)
    const candidates = candidatesOf(periods)
    const best = candidates.reduce<PitchCandidate>(
      (most, each) =>
        each.probability > most.probability &&
        each.frequencyHz >= this.lowestHz &&
        each.frequencyHz <= this.highestHz
          ? each
          : most,
      { frequencyHz: Number.NaN, probability: 0 },
    )
    const place = keyOfFrequency(best.frequencyHz, this.settings.concertHz)
    return { ...best, window, candidates, place, clarity }
  }

  /**
   * What is surest of all windows up to one: what still rings of the note before is least in the shortest, an octave is told best in the
   * longest. Only windows count that would show an octave below.
   *
   * @returns null when there is less sound than the shortest window has
   */
  hearClearest(samples: Float32Array, end: number, longestSamples: number): HeardPitch | null {
    let best: HeardPitch | null = null
    let last = 0
    for (let index = windowSamples.length - 1; index >= 0; index--) {
      const window = windowSamples[index]!
      if (window > longestSamples || (last && window > last * shorter)) continue
      last = window
      if (best && best.probability >= sureEnough) return best
      const heard = this.hear(samples, end, window)
      if (!best || (showsOctaveBelow(window, heard.frequencyHz) && heard.probability > best.probability))
        best = heard
    }
    return best
  }
}

/** The longest lag at which enough of a window is left to compare, in samples. */
const reachOf = (window: number) => window * 0.62

/** Whether a window is long enough to tell that a sound does not repeat an octave below instead: it holds twice the period. */
export const showsOctaveBelow = (window: number, frequencyHz: number) =>
  (listeningRate / frequencyHz) * 2.05 <= reachOf(window)

const sureEnough = 0.9
/** A window that is hardly shorter tells nothing else. */
const shorter = 0.7
