import type { Ticks } from '../time/units'

/** Where a note is told to be written, and where it was heard when that was told. */
interface ToldPlace {
  readonly heardTicks: Ticks
  readonly onsetTicks: Ticks
}

/**
 * Where a note is written whose place was told, now that it is heard elsewhere: what is moved by steps takes its written place with it,
 * and what is moved by less than half a step stays.
 *
 * @param stepTicks the smallest value by which notes are moved on the page
 * @returns null before the beginning of the piece
 */
export function placeNow(
  { heardTicks, onsetTicks }: ToldPlace,
  nowTicks: Ticks,
  stepTicks: Ticks,
): Ticks | null {
  const place = onsetTicks + Math.round((nowTicks - heardTicks) / stepTicks) * stepTicks
  return place < 0 ? null : place
}
