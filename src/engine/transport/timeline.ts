import { type TempoChange, type TempoMap, tempoMapOf } from '@/core/time/tempoMap'
import type { Stretch } from '@/core/time/timeSchemas'
import { type BeatsPerMinute, type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'

/** A place in the piece, and in which turn of the loop: the first pass is 0. */
export interface Place {
  readonly pass: number
  readonly ticks: Ticks
}

/** A part of one pass. */
export interface PassWindow {
  readonly pass: number
  readonly fromTicks: Ticks
  readonly toTicks: Ticks
}

/** The line a followed clock runs along. */
export interface ClockLine {
  readonly ticks: Ticks
  readonly timeMs: Milliseconds
  readonly tempoBpm: BeatsPerMinute
}

/** How a running transport lies in time. */
export interface RunningPlan {
  readonly fromTicks: Ticks
  /** The moment of `fromTicks`; in the future while counting in. */
  readonly startedAtMs: Milliseconds
  /** Turned round and round; null when the piece runs on. */
  readonly loop: Stretch | null
  /** null: at the piece's own tempo. */
  readonly line: ClockLine | null
  /** The tempi it runs at: those of the piece when it was set going. */
  readonly tempos: readonly TempoChange[]
}

/**
 * Time and place of a running transport: along the tempi of the piece, round and round in a loop, or along a clock that is
 * followed. The same in the engine and in the window.
 */
export class Timeline {
  /** From the start to the end of the first pass. */
  private readonly firstMs: Milliseconds
  private readonly passMs: Milliseconds
  private readonly loop: Stretch | null
  private readonly tempoMap: TempoMap

  constructor(private readonly plan: RunningPlan) {
    const { loop, fromTicks, line, tempos } = plan
    const tempoMap = tempoMapOf(tempos)
    this.tempoMap = tempoMap
    this.loop = loop && !line && fromTicks < loop.endTicks ? loop : null
    this.firstMs = this.loop ? tempoMap.msAt(this.loop.endTicks) - tempoMap.msAt(fromTicks) : Infinity
    this.passMs = this.loop
      ? tempoMap.msAt(this.loop.endTicks) - tempoMap.msAt(this.loop.startTicks)
      : Infinity
  }

  /** Before the start (count-in) positions are below `fromTicks`. */
  placeAt(timeMs: Milliseconds): Place {
    const sinceMs = timeMs - this.plan.startedAtMs
    if (!this.loop || sinceMs < this.firstMs) return { pass: 0, ticks: this.runningTicksAt(timeMs) }
    const pass = Math.floor((sinceMs - this.firstMs) / this.passMs) + 1
    const inPassMs = sinceMs - this.firstMs - (pass - 1) * this.passMs
    return { pass, ticks: this.tempoMap.ticksAt(this.tempoMap.msAt(this.loop.startTicks) + inPassMs) }
  }

  msAt({ pass, ticks }: Place): Milliseconds {
    if (pass === 0 || !this.loop) return this.msAtRunning(ticks)
    const inPassMs = this.tempoMap.msAt(ticks) - this.tempoMap.msAt(this.loop.startTicks)
    return this.plan.startedAtMs + this.firstMs + (pass - 1) * this.passMs + inPassMs
  }

  /** Position as if there were no loop: it never goes back. */
  runningTicksAt(timeMs: Milliseconds): Ticks {
    const { line, fromTicks, startedAtMs } = this.plan
    if (line) return line.ticks + (timeMs - line.timeMs) / msPerTick(line.tempoBpm)
    return this.tempoMap.ticksAt(this.tempoMap.msAt(fromTicks) + timeMs - startedAtMs)
  }

  msAtRunning(ticks: Ticks): Milliseconds {
    const { line, fromTicks, startedAtMs } = this.plan
    if (line) return line.timeMs + (ticks - line.ticks) * msPerTick(line.tempoBpm)
    return startedAtMs + this.tempoMap.msAt(ticks) - this.tempoMap.msAt(fromTicks)
  }

  /** What lies between a place and a moment, cut where the loop turns. Places are whole ticks. */
  windowsUntil(from: Place, untilMs: Milliseconds): PassWindow[] {
    const to = this.placeAt(untilMs)
    const end = { pass: to.pass, ticks: Math.floor(to.ticks) }
    const windows: PassWindow[] = []
    let at = from
    while (this.loop && at.pass < end.pass) {
      windows.push({ pass: at.pass, fromTicks: at.ticks, toTicks: this.loop.endTicks })
      at = { pass: at.pass + 1, ticks: this.loop.startTicks }
    }
    if (at.pass === end.pass && end.ticks > at.ticks)
      windows.push({ pass: at.pass, fromTicks: at.ticks, toTicks: end.ticks })
    return windows.filter((window) => window.toTicks > window.fromTicks)
  }
}

function msPerTick(tempoBpm: BeatsPerMinute): Milliseconds {
  return 60_000 / tempoBpm / TICKS_PER_QUARTER
}
