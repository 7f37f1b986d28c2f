import type { Milliseconds, Ticks } from '../time/units'

/** Some steps of a row of values that follow each other evenly, in the piece as in time. */
export interface StraightPiece {
  readonly first: number
  readonly steps: number
  readonly startTicks: Ticks
  readonly endTicks: Ticks
}

/** Nearer than this nobody sees: a hundredth of a quarter. */
const seenTicks = 100

/**
 * Takes a row of values of a sound apart where the tempo turns, so that each piece can be drawn from its first value to its last.
 *
 * @param stepMs from value to value @param ticksAt where a moment of the sound lies in the piece
 */
export function straightPieces(
  startMs: Milliseconds,
  steps: number,
  stepMs: number,
  ticksAt: (epochMs: Milliseconds) => Ticks,
): StraightPiece[] {
  const pieceOf = (first: number, count: number): StraightPiece[] => {
    const at = (step: number) => ticksAt(startMs + step * stepMs)
    const [startTicks, endTicks] = [at(first), at(first + count)]
    const isStraight = [0.25, 0.5, 0.75].every(
      (part) =>
        Math.abs(at(first + part * count) - (startTicks + part * (endTicks - startTicks))) < seenTicks,
    )
    if (isStraight || count <= 1) return [{ first, steps: count, startTicks, endTicks }]
    const half = count >> 1
    return [...pieceOf(first, half), ...pieceOf(first + half, count - half)]
  }
  return steps > 0 ? pieceOf(0, steps) : []
}
