import type { GatheredRests } from '@/core/notation/gatheredRests'
import type { Score } from '@/core/notation/score'
import { musicSpaces, type ScoreSystem } from '@/core/notation/systems'
import { type ExpectedSpacing, type LineSpacing, usualSpacing } from './fillLine'

/** A line whose music wants so much more or less room than when it was drawn is found anew. */
const sameMusic = 0.06

/** Of a line that is filled, the spacing of its notes and the share of it that its music wants, multiplied: about this in usual music. */
const usualProduct = 0.28

interface Found extends LineSpacing {
  /** Room that its music wanted, and that it had. */
  readonly spaces: number
  readonly lineSpaces: number | null
}

/**
 * How far apart the notes of a line will have to stand so that it fills its width: the fuller a line, the nearer, in proportion, as in the
 * line before it. A good guess saves drawing a line again.
 */
export class SpacingGuess {
  private product = usualProduct
  private latest = usualSpacing
  /** Lines that were drawn, by their first bar, with the room their music wanted. */
  private readonly found = new Map<number, Found>()

  /** What is known of a line that is to be drawn. */
  expected(
    score: Score,
    system: ScoreSystem,
    lineSpaces: number | null,
    gathered?: GatheredRests,
  ): ExpectedSpacing {
    const isLast = system.to >= score.measures.length
    const known = this.found.get(system.from)
    const spaces = musicSpaces(score, system, gathered)
    if (known?.lineSpaces === lineSpaces && Math.abs(known.spaces / spaces - 1) < sameMusic)
      return { ...known, isLast, isFound: true }
    const guessed = this.of(spaces, lineSpaces) ?? usualSpacing
    return {
      spacing: isLast ? Math.min(guessed, this.latest) : guessed,
      filling: 'spread',
      isLast,
      isFound: false,
    }
  }

  private of(spaces: number, lineSpaces: number | null): number | null {
    return lineSpaces === null || spaces === 0 ? null : (this.product * lineSpaces) / spaces
  }

  /** A line was drawn with this spacing. */
  wasFound(
    { spacing, filling }: LineSpacing,
    score: Score,
    system: ScoreSystem,
    lineSpaces: number | null,
    gathered?: GatheredRests,
  ): void {
    const spaces = musicSpaces(score, system, gathered)
    this.found.set(system.from, { spacing, filling, spaces, lineSpaces })
    if (lineSpaces === null || filling !== 'spread') return
    this.latest = spacing
    this.product = (spacing * spaces) / lineSpaces
  }
}
