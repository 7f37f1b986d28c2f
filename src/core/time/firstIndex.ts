/**
 * Binary search in something ordered: the first index that is at or beyond a place; `count` when none is.
 *
 * @param isReached false for all indexes before that place, true for all from there on
 *
 * @example firstIndex(notes.length, (index) => notes[index].onsetTicks >= tick)
 */
export function firstIndex(count: number, isReached: (index: number) => boolean, from = 0): number {
  let low = from
  let high = count
  while (low < high) {
    const middle = (low + high) >>> 1
    if (isReached(middle)) high = middle
    else low = middle + 1
  }
  return low
}
