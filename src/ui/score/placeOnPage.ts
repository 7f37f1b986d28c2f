import { firstIndex } from '@/core/time/firstIndex'
import type { Ticks } from '@/core/time/units'
import type { EngravedLine } from '@/engine/engraver/engraver'

/** The bars of a page, and which of them stand in each line of music. */
export interface PageLines {
  readonly measures: readonly { readonly startTicks: Ticks; readonly lengthTicks: Ticks }[]
  /** From the first bar to before the last, by index. */
  readonly systems: readonly { readonly from: number; readonly to: number }[]
}

/** The bar of a position and the line of music it stands in, both counted from 0; null past the end. */
export function systemAt(
  { measures, systems }: PageLines,
  ticks: Ticks,
): { readonly bar: number; readonly systemIndex: number } | null {
  const bar = firstIndex(measures.length, (index) => measures[index]!.startTicks > ticks) - 1
  const measure = measures[bar]
  if (!measure || ticks >= measure.startTicks + measure.lengthTicks) return null
  const systemIndex = systems.findIndex((system) => bar >= system.from && bar < system.to)
  return systemIndex < 0 ? null : { bar, systemIndex }
}

/**
 * How far from the left of its line a position lies, in pixels: between the noteheads before and after it in proportion
 * to time.
 *
 * @param from where the position's bar begins, for a line without a notehead before it
 * @param end where the line ends
 */
export function xInLine(
  { moments }: Pick<EngravedLine, 'moments'>,
  ticks: Ticks,
  from: Ticks,
  end: { readonly ticks: Ticks; readonly xPx: number },
): number {
  const next = firstIndex(moments.length, (index) => moments[index]!.ticks > ticks)
  const after = moments[next] ?? end
  const before = moments[next - 1] ?? { ticks: from, xPx: after.xPx }
  const share = after.ticks > before.ticks ? (ticks - before.ticks) / (after.ticks - before.ticks) : 0
  return before.xPx + (after.xPx - before.xPx) * Math.max(0, share)
}
