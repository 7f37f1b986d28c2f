import { keyOfFrequency, type ListenerSettings } from './listenerSettings'
import type { PitchCandidate } from './periods'

/** What speaks for a key, and by how much more than for the one that comes next, in natural logarithms of likelihood. */
export interface LikeliestKey {
  readonly key: number
  readonly lead: number
}

/**
 * What speaks for each key since something began: the logarithms of how likely each is in every window heard since are added up, as on the
 * way through a hidden Markov model that begins there and stays (`likeliestLine` is the same with the whole sound before it). What is plain
 * is known after two windows; what may be an octave is waited for.
 */
export class KeyEvidence {
  private readonly sums: Float64Array
  private readonly likely: Float64Array

  constructor(private readonly settings: ListenerSettings) {
    this.sums = new Float64Array(settings.highKey - settings.lowKey + 1)
    this.likely = new Float64Array(this.sums.length)
  }

  /**
   * @param candidates of one window
   * @param weight 1 for a window that is new by five milliseconds
   */
  add(candidates: readonly PitchCandidate[], weight: number): void {
    const { likely, sums } = this
    likely.fill(0)
    for (const { frequencyHz, probability } of candidates)
      this.spread(keyOfFrequency(frequencyHz, this.settings.concertHz), probability)
    for (let index = 0; index < sums.length; index++)
      sums[index]! += weight * Math.log(likely[index]! + floor)
  }

  /** What spoke against the key that sounds before anything spoke for another is forgotten, for each of the others. */
  against(key: number): void {
    const { sums } = this
    const sounding = sums[key - this.settings.lowKey] ?? 0
    for (let index = 0; index < sums.length; index++) sums[index] = Math.max(0, sums[index]! - sounding)
  }

  likeliest(): LikeliestKey {
    const { sums } = this
    let best = 0
    for (let index = 1; index < sums.length; index++) if (sums[index]! > sums[best]!) best = index
    let second = -Infinity
    for (let index = 0; index < sums.length; index++)
      if (index !== best && sums[index]! > second) second = sums[index]!
    return { key: this.settings.lowKey + best, lead: sums[best]! - second }
  }

  private spread(place: number, probability: number): void {
    const { likely } = this
    const from = place - this.settings.lowKey
    const nearest = Math.round(from)
    for (let key = Math.max(0, nearest - 1); key <= Math.min(likely.length - 1, nearest + 1); key++)
      likely[key]! += probability * Math.exp(-(((from - key) / spreadKeys) ** 2) / 2)
  }
}

/** How far a player is off the middle of a key. */
const spreadKeys = 0.3
/** What is never thought impossible in a window. */
const floor = 0.02
