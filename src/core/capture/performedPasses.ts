import { TempoMap } from '../time/tempoMap'
import type { Stretch } from '../time/timeSchemas'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../time/units'
import type { PartNote } from './performer'

/** Passes of a loop that a stand-in plays at most. */
const mostPasses = 64

/**
 * What a stand-in plays from a position on; in a loop once for each pass, anew each time.
 *
 * @param perform plays a part from a position on; `pass` counts from 0
 * @returns what it gave, with times after the start of the performance
 */
export function performedPasses<Played extends { readonly timeMs: Milliseconds }>(
  part: readonly PartNote[],
  tempoMap: TempoMap,
  fromTicks: Ticks,
  loop: Stretch | null,
  perform: (part: readonly PartNote[], fromTicks: Ticks, pass: number) => readonly Played[],
): Played[] {
  if (!loop) return [...perform(part, fromTicks, 0)]
  const inLoop = part.filter(({ onsetTicks }) => onsetTicks >= loop.startTicks && onsetTicks < loop.endTicks)
  const passMs = tempoMap.msAt(loop.endTicks) - tempoMap.msAt(loop.startTicks)
  return Array.from({ length: mostPasses }, (_, pass) =>
    perform(inLoop, loop.startTicks, pass).map((played) => ({
      ...played,
      timeMs: played.timeMs + pass * passMs,
    })),
  ).flat()
}

/** One key on each stroke of a click, as a part; null where the strokes have no tempo. */
export function alongTheClick(
  timesMs: readonly Milliseconds[],
  key: number,
): { readonly part: readonly PartNote[]; readonly tempoMap: TempoMap } | null {
  if (timesMs.length < 2) return null
  const part = timesMs.map((_, index) => ({
    onsetTicks: index * TICKS_PER_QUARTER,
    durationTicks: TICKS_PER_QUARTER / 4,
    key,
    velocity: 90,
  }))
  return { part, tempoMap: new TempoMap([{ tick: 0, tempoBpm: 60_000 / (timesMs[1]! - timesMs[0]!) }]) }
}
