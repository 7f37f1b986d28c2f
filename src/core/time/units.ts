/**
 * Units of time, kept apart by the type checker: a plain number may be given where ticks are asked for, but
 * ticks are never accepted where milliseconds are, nor the reverse. Sums and differences are plain numbers to the
 * compiler; tools/units goes on from there and reports where they are mixed.
 */
export type Ticks = number & { readonly __unit?: 'ticks' }
export type Milliseconds = number & { readonly __unit?: 'milliseconds' }
export type BeatsPerMinute = number & { readonly __unit?: 'bpm' }

/**
 * Ticks to the quarter note: 2^5·3^2·5·7, exact for 128th notes and for triplets, quintuplets, septuplets and
 * nonuplets; one tick is 0.05 ms at 120 bpm.
 */
export const TICKS_PER_QUARTER = 10_080

/** Last position of anything in a piece: more than 27 hours at 120 bpm, and it fits 32 bits with room for a length. */
export const lastTick = 2_000_000_000

/** Scales a position from one division (ticks per quarter) to another, to the nearest tick. */
export function rescaleTicks(ticks: number, fromDivision: number, toDivision: number): number {
  return fromDivision === toDivision ? ticks : Math.round((ticks * toDivision) / fromDivision)
}
