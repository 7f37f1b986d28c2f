import type { GatheredRests } from '@/core/notation/gatheredRests'
import type { Score } from '@/core/notation/score'
import { musicSpaces, type ScoreSystem } from '@/core/notation/systems'

/** Of a line that is filled, the spacing of its notes and the share of it that its music wants, multiplied: about this in usual music. */
const usualProduct = 0.28

/**
 * How far apart the notes of a line will have to stand so that it fills its width: the fuller a line, the nearer, in proportion, as in the
 * line before it. A good guess saves drawing a line again.
 */
export class SpacingGuess {
  private product = usualProduct

  /** @param lineSpaces width of the line in staff spaces; null: as wide as its music */
  of(score: Score, system: ScoreSystem, lineSpaces: number | null, gathered?: GatheredRests): number | null {
    const spaces = musicSpaces(score, system, gathered)
    return lineSpaces === null || spaces === 0 ? null : (this.product * lineSpaces) / spaces
  }

  /** A line was filled with this spacing. */
  wasFound(
    spacing: number,
    score: Score,
    system: ScoreSystem,
    lineSpaces: number | null,
    gathered?: GatheredRests,
  ): void {
    if (lineSpaces !== null) this.product = (spacing * musicSpaces(score, system, gathered)) / lineSpaces
  }
}
