import type { Score } from './score'
import type { ScoreSystem } from './systems'

/** Parts that play in a line of music, by index; all of them where none does. */
export function partsThatPlay({ parts }: Score, { from, to }: ScoreSystem): readonly number[] {
  const playing = parts.flatMap(({ measures }, index) =>
    measures
      .slice(from, to)
      .some((voices) => voices.some(({ elements }) => elements.some(({ kind }) => kind === 'chord')))
      ? [index]
      : [],
  )
  return playing.length > 0 ? playing : parts.map((_, index) => index)
}
