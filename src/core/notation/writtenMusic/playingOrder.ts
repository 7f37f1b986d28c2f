import type { BarFlow } from './writtenMusic'

/** Played bars of a piece; whatever is written, it comes to an end. */
export const mostPlayedBars = 40_000

/**
 * The bars of a piece in the order in which they are played: repeats and endings, da capo, dal segno, to the coda, fine.
 *
 * A passage that ends with a repeat begins behind the last beginning of one, else at the beginning of the piece. Endings are played at
 * the times they are for. After a jump nothing is repeated, and of endings the last is played; fine and the sign to the coda hold only
 * then. A jump is made once.
 *
 * Source: MusicXML 4.0, `repeat`, `ending` and `sound`; E. Gould, Behind Bars, 2011, "Repeats".
 *
 * @returns indices of bars
 */
export function playingOrder(bars: readonly BarFlow[]): number[] {
  const order: number[] = []
  const made = new Set<number>()
  const timesPlayed = new Map<number, number>()
  let repeatFrom = 0
  let isAfterJump = false
  let pass = 1
  const endings = endingsOf(bars)
  for (let bar = 0; bar < bars.length && order.length < mostPlayedBars; ) {
    const flow = bars[bar]!
    if (flow.repeatStarts && bar !== repeatFrom) {
      repeatFrom = bar
      pass = 1
    }
    const ending = endings.find(({ from, to }) => bar >= from && bar < to)
    if (ending && bar === ending.from && !isPlayedNow(ending, endings, pass, isAfterJump)) {
      bar = ending.to
      continue
    }
    order.push(bar)
    if (flow.fine && isAfterJump) break
    if (flow.toCoda && isAfterJump) {
      const coda = bars.findIndex((each, index) => each.coda && index > bar)
      if (coda >= 0) {
        isAfterJump = true
        repeatFrom = coda
        bar = coda
        continue
      }
    }
    if (flow.repeatTimes > 0 && !isAfterJump) {
      const played = (timesPlayed.get(bar) ?? 0) + 1
      timesPlayed.set(bar, played)
      // A first ending is for its times; a passage without endings says how often it is played.
      const times = ending ? Math.max(...ending.times) + 1 : flow.repeatTimes
      if (pass < times) {
        pass++
        bar = repeatFrom
        continue
      }
      // What comes now is another passage, unless it is the ending of this one.
      if (!endings.some(({ from }) => from === bar + 1)) {
        repeatFrom = bar + 1
        pass = 1
      }
    }
    const ended = endings.find(({ to }) => to === bar + 1)
    if (ended && flow.repeatTimes === 0 && !endings.some(({ from }) => from === bar + 1)) {
      repeatFrom = bar + 1
      pass = 1
    }
    if (flow.jump !== null && !made.has(bar)) {
      made.add(bar)
      const segno = bars.findIndex((each) => each.segno)
      isAfterJump = true
      bar = flow.jump === 'dal segno' && segno >= 0 ? segno : 0
      repeatFrom = bar
      continue
    }
    bar++
  }
  return order
}

interface EndingSpan {
  readonly from: number
  readonly to: number
  readonly times: readonly number[]
}

/** Endings with the bars they hold: up to where they stop, or where the next one or a repeat ends them. */
export function endingsOf(bars: readonly BarFlow[]): EndingSpan[] {
  const endings: EndingSpan[] = []
  for (const [from, { endingStarts }] of bars.entries()) {
    if (endingStarts === null) continue
    let to = from + 1
    while (
      to < bars.length &&
      !bars[to - 1]!.endingStops &&
      bars[to - 1]!.repeatTimes === 0 &&
      bars[to]!.endingStarts === null
    )
      to++
    endings.push({ from, to, times: endingStarts.length > 0 ? endingStarts : [1] })
  }
  return endings
}

function isPlayedNow(
  ending: EndingSpan,
  all: readonly EndingSpan[],
  pass: number,
  isAfterJump: boolean,
): boolean {
  if (!isAfterJump) return ending.times.includes(pass)
  // After a jump the last of the endings that stand together is played.
  let last = ending
  for (
    let next = all.find(({ from }) => from === last.to);
    next;
    next = all.find(({ from }) => from === last.to)
  )
    last = next
  return last === ending
}
