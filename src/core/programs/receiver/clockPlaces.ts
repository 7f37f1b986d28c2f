import { clocksPerQuarter, ticksPerClock } from '../../midi/clock'
import type { Milliseconds, Ticks } from '../../time/units'

/** The clocks of one run, so that any moment has a place: on the straight line between the clocks around it. */
export class ClockPlaces {
  private readonly timesMs: Milliseconds[] = []

  /** @param startTicks the place of the first clock */
  constructor(private readonly startTicks: Ticks) {}

  clock(timeMs: Milliseconds): void {
    this.timesMs.push(timeMs)
  }

  /** null: fewer than two clocks have come. */
  ticksAt(timeMs: Milliseconds): Ticks | null {
    const { timesMs } = this
    if (timesMs.length < 2) return null
    let [low, high] = [0, timesMs.length - 2]
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (timesMs[middle]! <= timeMs) low = middle
      else high = middle - 1
    }
    const [before, after] = [timesMs[low]!, timesMs[low + 1]!]
    const part = after > before ? (timeMs - before) / (after - before) : 0
    return this.startTicks + (low + part) * ticksPerClock
  }

  /** The place of the clock that would come next. */
  get endTicks(): Ticks {
    return this.startTicks + this.timesMs.length * ticksPerClock
  }

  /** Of the first beat; null before a clock has followed the first. */
  get firstMsPerQuarter(): Milliseconds | null {
    const last = Math.min(this.timesMs.length - 1, clocksPerQuarter)
    return last < 1 ? null : ((this.timesMs[last]! - this.timesMs[0]!) / last) * clocksPerQuarter
  }

  /** Of the last beat; null before that. */
  get msPerQuarter(): Milliseconds | null {
    const { timesMs } = this
    const from = Math.max(0, timesMs.length - 1 - clocksPerQuarter)
    const count = timesMs.length - 1 - from
    return count < 1 ? null : ((timesMs.at(-1)! - timesMs[from]!) / count) * clocksPerQuarter
  }
}
