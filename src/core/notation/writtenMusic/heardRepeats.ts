import { endingsOf } from './playingOrder'
import type { BarFlow } from './writtenMusic'

/** A passage that is played several times, one after the other, by the places of its bars in what is played. */
export interface HeardRepeat {
  /** Of the first time: its first and its last bar, the ending of this time counted. */
  readonly first: number
  readonly last: number
  readonly times: number
  /** The first and last bar of the ending of the first time, and of that of the second; null where there are none. */
  readonly endings: {
    readonly one: readonly [number, number]
    readonly two: readonly [number, number]
  } | null
}

/**
 * The repeats of what is played that can be written with repeat signs: those without endings, and those with a first and a second one. What
 * else comes again (other endings, da capo, dal segno) is written out as it is played.
 *
 * @param order indices of written bars, as they are played
 */
export function heardRepeats(bars: readonly BarFlow[], order: readonly number[]): HeardRepeat[] {
  const endings = endingsOf(bars)
  const repeats: HeardRepeat[] = []
  let from = 0
  for (let play = 0; play + 1 < order.length; play++) {
    const [bar, next] = [order[play]!, order[play + 1]!]
    if (bars[bar]!.repeatTimes === 0 || next > bar) continue
    const length = bar - next + 1
    const first = play + 1 - length
    if (first < from || !isSame(order, first, play + 1, next)) continue
    const one = endings.find((ending) => bar >= ending.from && bar < ending.to)
    if (one) {
      const common = one.from - next
      const two = endings.find((ending) => ending.from === one.to)
      const isUsual =
        one.times.join() === '1' &&
        two?.times.join() === '2' &&
        common > 0 &&
        isSame(order, play + 1, play + 1 + common, next) &&
        isSame(order, play + 1 + common, play + 1 + common + two.to - two.from, two.from)
      if (!isUsual || !two) continue
      const start = play + 1 + common
      const last = start + two.to - two.from - 1
      repeats.push({
        first,
        last: play,
        times: 2,
        endings: { one: [first + common, play], two: [start, last] },
      })
      from = last + 1
      play = last
      continue
    }
    let times = 1
    while (isSame(order, first + times * length, first + (times + 1) * length, next)) times++
    repeats.push({ first, last: play, times, endings: null })
    from = first + times * length
    play = from - 1
  }
  return repeats
}

/** Whether bars are played from one place to another that follow each other as they are written. */
function isSame(order: readonly number[], from: number, to: number, firstBar: number): boolean {
  if (from < 0 || to > order.length) return false
  for (let play = from; play < to; play++) if (order[play] !== firstBar + play - from) return false
  return true
}
