import { firstIndex } from './firstIndex'
import { type BeatsPerMinute, type Milliseconds, TICKS_PER_QUARTER, type Ticks } from './units'

/** One tempo from a tick on, in quarter notes a minute. */
export interface TempoChange {
  readonly tick: Ticks
  readonly tempoBpm: BeatsPerMinute
}

interface TempoSegment {
  readonly startTicks: Ticks
  readonly startMs: Milliseconds
  readonly msPerTick: number
}

/**
 * Converts between ticks and milliseconds along a piece.
 *
 * The first change is taken to hold from tick 0, and 120 bpm is used where there is none (Standard MIDI Files
 * 1.0, "Set Tempo"). Positions before tick 0 (a count-in) run at the first tempo.
 *
 * @example new TempoMap([{ tick: 0, tempoBpm: 120 }]).msAt(10_080) // 500
 */
export class TempoMap {
  private readonly segments: TempoSegment[]

  constructor(changes: readonly TempoChange[]) {
    const sorted = [...changes].sort((a, b) => a.tick - b.tick)
    const first = sorted[0]?.tempoBpm ?? 120
    const segments: TempoSegment[] = [{ startTicks: 0, startMs: 0, msPerTick: msPerTick(first) }]
    for (const change of sorted) {
      const last = segments[segments.length - 1]!
      const next = {
        startTicks: change.tick,
        startMs: last.startMs + (change.tick - last.startTicks) * last.msPerTick,
        msPerTick: msPerTick(change.tempoBpm),
      }
      if (change.tick <= last.startTicks)
        segments[segments.length - 1] = { ...next, startTicks: last.startTicks, startMs: last.startMs }
      else segments.push(next)
    }
    this.segments = segments
  }

  msAt(tick: Ticks): Milliseconds {
    const segment = this.find((candidate) => candidate.startTicks <= tick)
    return segment.startMs + (tick - segment.startTicks) * segment.msPerTick
  }

  /** Exact (not rounded) tick at a time. */
  ticksAt(ms: Milliseconds): Ticks {
    const segment = this.find((candidate) => candidate.startMs <= ms)
    return segment.startTicks + (ms - segment.startMs) / segment.msPerTick
  }

  /** The tick that comes so many milliseconds after another one; before it where they are negative. Never before the first. */
  shifted(tick: Ticks, byMs: Milliseconds): Ticks {
    return byMs === 0 ? tick : Math.max(0, Math.round(this.ticksAt(this.msAt(tick) + byMs)))
  }

  tempoAt(tick: Ticks): BeatsPerMinute {
    return 60_000 / (this.find((candidate) => candidate.startTicks <= tick).msPerTick * TICKS_PER_QUARTER)
  }

  private find(holds: (segment: TempoSegment) => boolean): TempoSegment {
    const segments = this.segments
    if (segments.length === 1) return segments[0]!
    return segments[Math.max(0, firstIndex(segments.length, (index) => !holds(segments[index]!)) - 1)]!
  }
}

const maps = new WeakMap<readonly TempoChange[], TempoMap>()

/** The map of some tempi, the same object as long as they are. */
export function tempoMapOf(changes: readonly TempoChange[]): TempoMap {
  let map = maps.get(changes)
  if (!map) {
    map = new TempoMap(changes)
    maps.set(changes, map)
  }
  return map
}

function msPerTick(tempoBpm: BeatsPerMinute): number {
  return 60_000 / tempoBpm / TICKS_PER_QUARTER
}
