import type { Milliseconds } from '../time/units'

/** How far a player's strokes lie from the clicks they were played to. */
export interface LatencyMeasurement {
  /** Positive: after the click. One for each stroke that could be told to belong to a click. */
  readonly offsetsMs: readonly Milliseconds[]
  readonly medianMs: Milliseconds
  /** Half of the strokes lie within this range (between the quartiles). */
  readonly spreadMs: Milliseconds
  /** Strokes too far from any click, or second strokes to the same one. */
  readonly leftOut: number
}

/** Strokes further from every click than this part of the distance between clicks are left out. */
const reach = 0.45
/** Fewer than this say nothing. */
export const fewestStrokes = 6

/**
 * Compares strokes with the clicks a person played along to. Each click takes the nearest stroke; the median says how
 * late the source is, free of single slips.
 *
 * @returns null while there are fewer than `fewestStrokes`
 */
export function measureLatency(
  clicksMs: readonly Milliseconds[],
  strokesMs: readonly Milliseconds[],
): LatencyMeasurement | null {
  if (clicksMs.length < 2) return null
  const gapMs = (clicksMs.at(-1)! - clicksMs[0]!) / (clicksMs.length - 1)
  const nearest = new Map<number, Milliseconds>()
  for (const strokeMs of strokesMs) {
    const index = Math.max(0, Math.min(clicksMs.length - 1, Math.round((strokeMs - clicksMs[0]!) / gapMs)))
    const offsetMs = strokeMs - clicksMs[index]!
    if (Math.abs(offsetMs) > gapMs * reach) continue
    const known = nearest.get(index)
    if (known === undefined || Math.abs(offsetMs) < Math.abs(known)) nearest.set(index, offsetMs)
  }
  const offsetsMs = [...nearest].sort(([a], [b]) => a - b).map(([, offsetMs]) => offsetMs)
  if (offsetsMs.length < fewestStrokes) return null
  const sorted = [...offsetsMs].sort((a, b) => a - b)
  return {
    offsetsMs,
    medianMs: quantile(sorted, 0.5),
    spreadMs: quantile(sorted, 0.75) - quantile(sorted, 0.25),
    leftOut: strokesMs.length - offsetsMs.length,
  }
}

/** Linear between order statistics (Hyndman and Fan 1996, type 7). */
function quantile(sorted: readonly number[], part: number): number {
  const place = (sorted.length - 1) * part
  const low = Math.floor(place)
  const high = Math.ceil(place)
  return sorted[low]! + (sorted[high]! - sorted[low]!) * (place - low)
}
