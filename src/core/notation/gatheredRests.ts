import type { Score } from './score'

/** Bars of rest that are one sign: how many, by the first of them. */
export type GatheredRests = ReadonlyMap<number, number>

export const nothingGathered: GatheredRests = new Map()

/**
 * Rests of several bars in which nothing else stands: no change of meter, key, clef or tempo, no section or words. (Common practice of
 * written parts, no source.)
 *
 * @param score of one part
 */
export function gatheredRests(score: Score): GatheredRests {
  const gathered = new Map<number, number>()
  let first: number | null = null
  for (let bar = 0; bar <= score.measures.length; bar++) {
    if (bar < score.measures.length && isEmpty(score, bar)) {
      if (first !== null && hasOwnSign(score, bar)) {
        if (bar - first > 1) gathered.set(first, bar - first)
        first = bar
      }
      first ??= bar
      continue
    }
    if (first !== null && bar - first > 1) gathered.set(first, bar - first)
    first = null
  }
  return gathered
}

function isEmpty({ parts }: Score, bar: number): boolean {
  return parts.every(({ measures }) =>
    measures[bar]!.every(({ elements }) => elements.every(({ kind }) => kind === 'rest')),
  )
}

/** Whether something is said at a bar, or within it, that a reader must not miss while counting. */
function hasOwnSign(score: Score, bar: number): boolean {
  const { measures, tempos, sections, texts, chordSymbols, repeats, endings, barLines, breaks, parts } = score
  const { startTicks, lengthTicks, numerator, denominator } = measures[bar]!
  const before = measures[bar - 1]
  const isHere = ({ tick }: { readonly tick: number }) =>
    tick >= startTicks && tick < startTicks + lengthTicks
  return (
    (before !== undefined && (before.numerator !== numerator || before.denominator !== denominator)) ||
    tempos.some((mark) => mark.print !== null && isHere(mark)) ||
    sections.some(isHere) ||
    texts.some(isHere) ||
    chordSymbols.some(isHere) ||
    barLines.some((line) => line.bar === bar - 1) ||
    breaks.some((each) => each.bar === bar) ||
    endings.some(({ from, to }) => from === bar || to === bar) ||
    repeats.some(({ from, to }) => from === bar || to === bar) ||
    parts.some(
      ({ keys, clefChanges, texts: own }) =>
        keys.some(isHere) || clefChanges.some((change) => change.bar === bar) || own.some(isHere),
    )
  )
}
