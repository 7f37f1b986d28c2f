import { frameMs, type ListenedSound } from './soundFrames'

/** A moment within one sounding key at which it may have been struck anew, and what speaks for it. */
export interface PossibleStrike {
  readonly timeMs: number
  /** How strongly the spectrum rises there (`AttackStrength`). */
  readonly attack: number
  /** How many times more than usual around it. */
  readonly timesUsual: number
  /** How far the sound had sunk before, and how far it rises after, in decibels. */
  readonly fallDb: number
  readonly riseDb: number
  /** How much less exactly it repeats for a moment. */
  readonly blur: number
}

/** All moments between two frames of one key that stand out at all. */
export function possibleStrikes(sound: ListenedSound, fromMs: number, toMs: number): PossibleStrike[] {
  const { attacks, attackStepMs, frames } = sound
  const strikes: PossibleStrike[] = []
  const reach = Math.round(25 / attackStepMs)
  const first = Math.max(1, Math.ceil(fromMs / attackStepMs))
  const last = Math.min(attacks.length - 2, Math.floor(toMs / attackStepMs))
  for (let step = first; step <= last; step++) {
    const timeMs = step * attackStepMs
    if (!isTop(attacks, step, reach)) continue
    const attack = attacks[step]!
    const frame = Math.round(timeMs / frameMs)
    const level = (each: number) => frames[Math.max(0, Math.min(frames.length - 1, each))]!.levelDb
    let lowest = frame
    for (let each = frame - 4; each <= frame + 5; each++) if (level(each) < level(lowest)) lowest = each
    let before = -120
    for (let each = frame - 10; each < frame; each++)
      if (each <= lowest && each * frameMs >= fromMs - 20) before = Math.max(before, level(each))
    let after = -120
    for (let each = lowest; each <= lowest + 9; each++) after = Math.max(after, level(each))
    const clarity = (each: number) => frames[Math.max(0, Math.min(frames.length - 1, each))]!.clarity
    let clear = 0
    for (let each = frame - 8; each < frame - 2; each++) clear += clarity(each) / 6
    let unclear = 1
    for (let each = frame - 2; each <= frame + 5; each++) unclear = Math.min(unclear, clarity(each))
    strikes.push({
      timeMs,
      attack,
      timesUsual: attack / (usualAround(attacks, step, attackStepMs) + 0.004),
      fallDb: Math.max(0, before - level(lowest)),
      riseDb: Math.max(0, after - level(lowest)),
      blur: Math.max(0, clear - unclear),
    })
  }
  return strikes
}

function isTop(values: Float32Array, index: number, reach: number): boolean {
  const here = values[index]!
  for (let each = index - reach; each <= index + reach; each++) if ((values[each] ?? 0) > here) return false
  return here > 0.004
}

/** What four fifths of what is around lie below, without the moment itself. */
function usualAround(values: Float32Array, index: number, stepMs: number): number {
  const around: number[] = []
  for (let each = index - Math.round(200 / stepMs); each <= index + Math.round(150 / stepMs); each++)
    if (Math.abs(each - index) * stepMs > 30 && each >= 0 && each < values.length) around.push(values[each]!)
  around.sort((a, b) => a - b)
  return around[Math.floor(around.length * 0.8)] ?? 0
}

/**
 * How likely it is that the key was struck anew, from 0 to 1. Weights are a logistic regression over repeated notes of thirty instruments of
 * a General MIDI bank (package fluid-soundfont-gm), dry and in a noisy room; what is judged in tests are other instruments.
 *
 * @param sinceMs since it was struck before
 */
export function strikeProbability(
  { attack, timesUsual, fallDb, riseDb, blur }: PossibleStrike,
  sinceMs: number,
): number {
  const fall = Math.min(8, fallDb)
  const rise = Math.min(8, riseDb)
  const score =
    -4.132 +
    1.226 * Math.log(attack + 0.003) +
    2.125 * Math.log(timesUsual + 0.3) +
    0.265 * fall +
    0.216 * rise +
    0.103 * Math.min(fall, rise, 6) -
    5.028 * Math.min(0.3, blur) +
    1.407 * Math.log(Math.min(sinceMs, 400) / 100)
  return 1 / (1 + Math.exp(-score))
}
