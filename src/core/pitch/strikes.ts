import { likelihoodBy } from './decisionTrees'
import { type HarmonicMotion, harmonicMotion, motionStepMs } from './harmonicMotion'
import { frameMs, type ListenedSound } from './soundFrames'
import strikeTrees from './strikeTrees.json'

/** A moment within one sounding key at which it may have been struck anew. */
export interface PossibleStrike {
  /** When the new note begins. */
  readonly onsetMs: number
  /** How likely that is, from 0 to 1. */
  readonly probability: number
}

/**
 * Where a key that sounds was struck anew: by tongue, bow, pluck or key, with silence before it or while it still rings. The trees that
 * tell were fitted to repeated notes of instruments of a General MIDI bank (package fluid-soundfont-gm), dry and in noisy rooms, steady and
 * with vibrato and swells, by `npm run fit:strikes`; what is judged in tests are other instruments.
 *
 * @param frequencyHz of the key as it sounds
 * @param leastMs two strikes, and the beginning and the first, lie further apart than this
 * @param sure how likely a strike must be, from 0 to 1
 * @returns in order
 */
export function strikesIn(
  sound: ListenedSound,
  frequencyHz: number,
  { fromMs, toMs, leastMs, sure }: { fromMs: number; toMs: number; leastMs: number; sure: number },
): PossibleStrike[] {
  const firstMs = Math.ceil((fromMs + leastMs) / motionStepMs) * motionStepMs
  const steps = Math.floor((toMs - firstMs) / motionStepMs) + 1
  if (steps <= 0) return []
  const motion = harmonicMotion(sound.samples, firstMs + earliestMs, toMs + latestMs, frequencyHz)
  const likely = Float64Array.from({ length: steps }, (_, step) =>
    likelihoodBy(strikeTrees, aroundMoment(sound, motion, firstMs + step * motionStepMs)),
  )
  const strikes: PossibleStrike[] = []
  let lastMs = fromMs
  for (const step of topsOf(likely, sure, leastMs / motionStepMs)) {
    const onsetMs = firstMs + middleAround(likely, step) * motionStepMs - feltLateMs
    const probability = soonAgain(likely[step]!, onsetMs - lastMs)
    if (probability < sure) continue
    strikes.push({ onsetMs, probability })
    lastMs = onsetMs
  }
  return strikes
}

/** Where values are highest, so far apart, in order. */
function topsOf(values: Float64Array, least: number, apart: number): number[] {
  const tops: number[] = []
  const high = [...values.keys()].filter((place) => values[place]! >= least)
  for (const place of high.sort((one, other) => values[other]! - values[one]!))
    if (tops.every((top) => Math.abs(top - place) > apart)) tops.push(place)
  return tops.sort((one, other) => one - other)
}

/** The middle of what is at least half as likely as a top, within 30 ms of it: the trees say of all of it that something begins there. */
function middleAround(values: Float64Array, top: number): number {
  let sum = 0
  let places = 0
  for (let place = top - 6; place <= top + 6; place++) {
    const value = values[place] ?? 0
    if (value < values[top]! / 2) continue
    sum += value
    places += value * place
  }
  return places / sum
}

/** Nobody strikes again as readily while a note has hardly begun: swelling, it is as uneven as one that begins. */
function soonAgain(probability: number, sinceMs: number): number {
  const struck = probability * (Math.min(sinceMs, readyAgainMs) / readyAgainMs) ** 2
  return struck / (struck + 1 - probability)
}
const readyAgainMs = 200

/** What is looked at around a moment, every ten milliseconds. */
const earliestMs = -60
const latestMs = 80
const looks = (latestMs - earliestMs) / frameMs + 1
/** How many numbers that are. */
export const knownAround = 4 * looks
/** The level is told against the one at this moment. */
const comparedMs = -40
/** A note that begins is plainest a little after it began. */
export const feltLateMs = 5

/**
 * What is known around a moment: attack strength, level against that of a moment before, and motion of the harmonics, each at fifteen
 * moments from 60 ms before to 80 ms after it; all but the level as logarithms.
 */
export function aroundMoment(
  { attacks, attackStepMs, frames }: ListenedSound,
  { fromMs, partingHz, unlikeDb }: HarmonicMotion,
  timeMs: number,
): Float32Array {
  const known = new Float32Array(knownAround)
  const levelAt = (ms: number) =>
    frames[Math.max(0, Math.min(frames.length - 1, Math.round(ms / frameMs)))]!.levelDb
  const comparedDb = levelAt(timeMs + comparedMs)
  for (let look = 0; look < looks; look++) {
    const ms = timeMs + earliestMs + look * frameMs
    const step = Math.max(0, Math.min(partingHz.length - 1, Math.round((ms - fromMs) / motionStepMs)))
    known[look] = logarithm(attacks[Math.round(ms / attackStepMs)] ?? 0)
    known[looks + look] = levelAt(ms) - comparedDb
    known[2 * looks + look] = logarithm(partingHz[step]!)
    known[3 * looks + look] = logarithm(unlikeDb[step]!)
  }
  return known
}

const logarithm = (value: number) => Math.log(value + 0.003)
