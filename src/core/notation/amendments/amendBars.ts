import type { Ticks } from '../../time/units'
import { type Fold, problemOfFold } from '../repeats'
import type { Score } from '../score'
import type { AmendmentOf, BarAmendment, Misfit } from './amendment'

/**
 * What repeats that were told leave out of a page, since it is played again: the bars of each other time, behind the first time and its
 * ending.
 */
export function foldsOf(score: Score, amendments: readonly BarAmendment[], misfits: Misfit[]): Fold[] {
  const { measures } = score
  const barOf = (tick: Ticks) => measures.findIndex(({ startTicks }) => startTicks === tick)
  const folds: Fold[] = []
  for (const amendment of told(amendments, 'repeat')) {
    if (amendment.timesThere === undefined) continue
    const [from, last] = [barOf(amendment.tick), barOf(amendment.lastBarTick)]
    // What fits no bar is told with the other repeats.
    if (from < 0 || last < from) continue
    const ending = told(amendments, 'ending').find(
      (each) => each.time === 1 && each.lastBarTick === amendment.lastBarTick,
    )
    const endingFrom = ending ? barOf(ending.tick) : -1
    const length = endingFrom > from ? endingFrom - from : last + 1 - from
    const fold: Fold = {
      from,
      length,
      to: last + 1,
      again: Array.from({ length: amendment.timesThere - 1 }, (_, time) => last + 1 + time * length),
    }
    const why = problemOfFold(score, fold)
    if (why === null) folds.push(fold)
    else misfits.push({ amendment, why })
  }
  return folds
}

/** Puts bar lines, repeats and endings that were told by hand into a score. */
export function amendBars(score: Score, amendments: readonly BarAmendment[], misfits: Misfit[]): Score {
  if (amendments.length === 0) return score
  const { measures } = score
  const barOf = (tick: Ticks) => measures.findIndex(({ startTicks }) => startTicks === tick)
  const none = 'no bar begins there'
  const barLines = amendments.flatMap((amendment) => {
    if (amendment.aspect !== 'barLine') return []
    const bar = barOf(amendment.tick)
    if (bar >= 0) return [{ bar, style: amendment.style }]
    misfits.push({ amendment, why: none })
    return []
  })
  const breaks = told(amendments, 'break').flatMap((amendment) => {
    const bar = barOf(amendment.tick)
    if (bar > 0) return [{ bar, of: amendment.of }]
    misfits.push({ amendment, why: bar === 0 ? 'the first line begins there anyway' : none })
    return []
  })
  const repeats = [...score.repeats]
  for (const amendment of told(amendments, 'repeat')) {
    const [from, last] = [barOf(amendment.tick), barOf(amendment.lastBarTick)]
    // It is folded, or was found not to fit.
    if (amendment.timesThere !== undefined && from >= 0 && last >= from) continue
    const problem =
      from < 0 || last < 0
        ? none
        : last < from
          ? 'its end lies before its beginning'
          : repeats.some((repeat) => repeat.from <= last && repeat.to > from)
            ? 'something is repeated there already'
            : isTiedInto(score, from) || isTiedInto(score, last + 1)
              ? tiedOver
              : null
    if (problem !== null) {
      misfits.push({ amendment, why: problem })
      continue
    }
    // Nothing of what was played is left out for it.
    repeats.push({ from, to: last + 1, times: 2 })
  }
  repeats.sort((a, b) => a.from - b.from)
  const endings = endingsOf(score, told(amendments, 'ending'), repeats, barOf, misfits)
  return { ...score, barLines, repeats, endings, breaks }
}

/**
 * First endings end what is repeated, second ones follow it: one without the other would be played as nobody means it. (MusicXML 4.0,
 * `ending`.)
 */
function endingsOf(
  score: Score,
  amendments: readonly AmendmentOf<'ending'>[],
  repeats: Score['repeats'],
  barOf: (tick: Ticks) => number,
  misfits: Misfit[],
): Score['endings'] {
  const spans = amendments.map((amendment) => ({
    amendment,
    from: barOf(amendment.tick),
    to: barOf(amendment.lastBarTick) + 1,
  }))
  const isPlaced = ({ from, to }: (typeof spans)[number]) => from >= 0 && to > from
  const firstOf = (repeat: Score['repeats'][number]) =>
    spans.find(
      (span) =>
        isPlaced(span) && span.amendment.time === 1 && span.to === repeat.to && span.from > repeat.from,
    )
  const secondOf = (repeat: Score['repeats'][number]) =>
    spans.find((span) => isPlaced(span) && span.amendment.time === 2 && span.from === repeat.to)
  const whole = repeats.flatMap((repeat) => {
    const [first, second] = [firstOf(repeat), secondOf(repeat)]
    return first && second ? [first, second] : []
  })
  if (whole.some(({ from, to }) => isTiedInto(score, from) || isTiedInto(score, to))) {
    for (const { amendment } of spans) misfits.push({ amendment, why: tiedOver })
    return []
  }
  for (const span of spans)
    if (!whole.includes(span))
      misfits.push({
        amendment: span.amendment,
        why: isPlaced(span)
          ? 'a first ending ends what is repeated, and a second one follows it: the other is missing'
          : 'no bar begins there',
      })
  return whole.map(({ amendment, from, to }) => ({ from, to, time: amendment.time }))
}

/** A note that goes on over the edge of what is played twice would be read by each reader in another way. */
const tiedOver = 'a note is tied over its bar line'

function isTiedInto({ parts }: Score, bar: number): boolean {
  return parts.some(({ measures }) =>
    measures[bar]?.some(
      ({ elements: [first] }) => first?.kind === 'chord' && first.notes.some((note) => note.tiesFromPrevious),
    ),
  )
}

function told<A extends BarAmendment['aspect']>(
  amendments: readonly BarAmendment[],
  aspect: A,
): AmendmentOf<A>[] {
  return amendments.flatMap((each) => (each.aspect === aspect ? [each as AmendmentOf<A>] : []))
}
