import type { Measure } from '../time/meterMap'
import type { Ticks } from '../time/units'
import {
  type ChordNote,
  type Clef,
  keyAt,
  type Repeat,
  type Return,
  type Score,
  type ScoreElement,
  type ScorePart,
} from './score'

/** A shorter passage is written out. */
const fewestBars = 2

/**
 * Writes passages once that are the same twice in a row, in all parts: notes, values, ties, words, meter, key and clefs. What only the
 * playing tells apart (dynamics, slurs, pedal, tempo) is written as it was the first time. Each notehead stands for the notes of both
 * times. Bars that were changed by hand are left alone. Of several ways the longest passage is taken, from the beginning on.
 */
export function foldRepeats(score: Score, handBars: ReadonlySet<number> = new Set()): Score {
  const known = new Map<string, number>()
  const bars = score.measures.map((_, bar) => {
    const content = handBars.has(bar) ? `changed by hand, ${bar}` : contentOf(score, bar)
    const kind = known.get(content) ?? known.size
    known.set(content, kind)
    return kind
  })
  const folds: Fold[] = []
  for (let bar = 0; bar < bars.length; ) {
    const length = longestTwice(score, bars, bar)
    if (length === 0) bar++
    else {
      folds.push({ from: bar, length, again: [bar + length], to: bar + length })
      bar += 2 * length
    }
  }
  return folded(score, folds)
}

/** Bars that are played again, by their indices among all that are played. */
export interface Fold {
  readonly from: number
  /** How many of them are played again; what comes behind them up to `to` is the ending of the first time. */
  readonly length: number
  readonly to: number
  /** Where each of the other times begins. */
  readonly again: readonly number[]
}

/** Why bars cannot be written once; null where they can. */
export function problemOfFold(score: Score, { from, length, again }: Fold): string | null {
  for (const start of again)
    for (let bar = 0; bar < length; bar++) {
      const [first, other] = [from + bar, start + bar]
      if (!score.measures[first] || !score.measures[other]) return 'the piece ends before it is played again'
      if (contentOf(score, first) !== contentOf(score, other))
        return `bar ${other + 1} is not the same as bar ${first + 1}, which it repeats`
    }
  return null
}

/** A score in which bars that are played again are written once. */
export function folded(score: Score, folds: readonly Fold[]): Score {
  if (folds.length === 0) return score
  const gone = folds.flatMap(({ from, length, again }) =>
    again.flatMap((start) =>
      Array.from({ length }, (_, index) => ({ bar: start + index, writtenAs: from + index })),
    ),
  )
  const writtenAs = new Map(gone.map((each) => [each.bar, each.writtenAs]))
  const kept = score.measures.flatMap(({ index }) => (writtenAs.has(index) ? [] : [index]))
  const placeOf = new Map(kept.map((bar, place) => [bar, place]))
  const repeats = folds.map(
    ({ from, to, again }): Repeat => ({
      from: placeOf.get(from)!,
      to: placeOf.get(to - 1)! + 1,
      times: again.length + 1,
    }),
  )
  const returns = folds.flatMap(({ from, length, again }) =>
    again.map(
      (start): Return => ({
        againFromTicks: score.measures[start]!.startTicks,
        againToTicks: endOf(score.measures[start + length - 1]!),
        writtenFromTicks: score.measures[from]!.startTicks,
      }),
    ),
  )
  /** The bars in which each kept bar is played again. */
  const otherTimes = new Map<number, number[]>()
  for (const { bar, writtenAs: written } of gone)
    otherTimes.set(written, [...(otherTimes.get(written) ?? []), bar])
  /** Whether something lies before, between or behind what is left out, from end to end. */
  const isKept = (startTicks: Ticks, endTicks: Ticks) =>
    returns.every(
      ({ againFromTicks, againToTicks }) => endTicks <= againFromTicks || startTicks >= againToTicks,
    )
  const isTickKept = (tick: Ticks) =>
    returns.every(({ againFromTicks, againToTicks }) => tick < againFromTicks || tick >= againToTicks)
  return {
    ...score,
    measures: kept.map((bar) => score.measures[bar]!),
    repeats,
    returns,
    tempos: score.tempos.filter(({ tick }) => isTickKept(tick)),
    sections: score.sections.filter(({ tick }) => isTickKept(tick)),
    texts: score.texts.filter(({ tick }) => isTickKept(tick)),
    chordSymbols: score.chordSymbols.filter(({ tick }) => isTickKept(tick)),
    parts: score.parts.map((part): ScorePart => {
      let again = 0
      const measures = kept.map((bar) => {
        const others = (otherTimes.get(bar) ?? []).map((other) => part.measures[other]!)
        if (others.length === 0) return part.measures[bar]!
        return part.measures[bar]!.map((voice, place) => ({
          ...voice,
          elements: voice.elements.map((element, index) => {
            if (element.kind === 'rest') return element
            const same = others.flatMap((voices) => {
              const other = voices[place]!.elements[index]!
              return other.kind === 'chord' ? [other] : []
            })
            for (const { graces, notes } of same)
              again += graces.length + notes.filter((note) => !note.tiesFromPrevious).length
            return {
              ...element,
              graces: element.graces.map((note, which) =>
                withIds(
                  note,
                  same.map(({ graces }) => graces[which]!),
                ),
              ),
              notes: element.notes.map((note, which) =>
                withIds(
                  note,
                  same.map(({ notes }) => notes[which]!),
                ),
              ),
            }
          }),
        }))
      })
      return {
        ...part,
        measures,
        clefChanges: part.clefChanges.flatMap((change) => {
          const place = placeOf.get(change.bar)
          return place === undefined ? [] : [{ ...change, bar: place }]
        }),
        octaveLines: part.octaveLines.filter(({ startTicks, endTicks }) => isKept(startTicks, endTicks)),
        slurs: part.slurs.filter(({ startTicks, endTicks }) => isKept(startTicks, endTicks + 1)),
        glissandi: part.glissandi.filter(({ startTicks, endTicks }) => isKept(startTicks, endTicks + 1)),
        pedals: part.pedals.filter(({ startTicks, endTicks }) => isKept(startTicks, endTicks)),
        texts: part.texts.filter(({ tick }) => isTickKept(tick)),
        dynamics: {
          levels: part.dynamics.levels.filter(({ tick }) => isTickKept(tick)),
          hairpins: part.dynamics.hairpins.filter(({ startTicks, endTicks }) => isKept(startTicks, endTicks)),
        },
        ledger: {
          ...part.ledger,
          written: part.ledger.written - again,
          merged: part.ledger.merged + again,
        },
      }
    }),
  }
}

/** When something is written that is played at a moment: what is played again is written where it is played first. */
export function writtenTickOf(returns: readonly Return[], tick: Ticks): Ticks {
  const again = returns.find(
    ({ againFromTicks, againToTicks }) => tick >= againFromTicks && tick < againToTicks,
  )
  return again ? tick - again.againFromTicks + again.writtenFromTicks : tick
}

/**
 * Bars of the longest passage from a bar on that is the same again right after; 0 where there is none.
 *
 * @param bars the same number for bars that are the same
 */
function longestTwice({ parts }: Score, bars: readonly number[], from: number): number {
  for (let length = Math.floor((bars.length - from) / 2); length >= fewestBars; length--) {
    let same = 0
    while (same < length && bars[from + same] === bars[from + length + same]) same++
    if (same < length) continue
    const isPlayed = parts.some(({ measures }) =>
      measures
        .slice(from, from + length)
        .some((voices) => voices.some(({ elements }) => elements.some(({ kind }) => kind === 'chord'))),
    )
    const isTied = [from + length - 1, from + 2 * length - 1].some((bar) =>
      parts.some(({ measures }) =>
        measures[bar]!.some(({ elements }) => {
          const last = elements.at(-1)
          return last?.kind === 'chord' && last.notes.some(({ tiesToNext }) => tiesToNext)
        }),
      ),
    )
    if (isPlayed && !isTied) return length
  }
  return 0
}

/** Everything that must be the same of two bars to be written once, as text. */
function contentOf({ measures, parts }: Score, bar: number): string {
  const { numerator, denominator, lengthTicks, startTicks } = measures[bar]!
  return JSON.stringify([
    [numerator, denominator, lengthTicks],
    parts.map((part) => [
      keyAt(part.keys, startTicks).fifths,
      part.clefs.map((clef, index) => clefAtBar(part, clef, index + 1, bar)),
      part.measures[bar]!.map(({ voice, staff, elements }) => [voice, staff, elements.map(elementContent)]),
    ]),
  ])
}

function elementContent(element: ScoreElement): unknown {
  const { kind, startTicks, value, tuplet } = element
  const time = [kind, startTicks, value.type, value.dots, tuplet]
  if (kind === 'rest') return time
  const names = ({ pitch, tiesFromPrevious, tiesToNext }: ChordNote) => [pitch, tiesFromPrevious, tiesToNext]
  return [...time, element.notes.map(names), element.graces.map(names), element.lyric?.text ?? null]
}

function clefAtBar(part: ScorePart, first: Clef, staff: number, bar: number): Clef {
  return part.clefChanges.findLast((change) => change.staff === staff && change.bar <= bar)?.clef ?? first
}

function withIds(note: ChordNote, again: readonly ChordNote[]): ChordNote {
  return { ...note, noteIds: [...note.noteIds, ...again.flatMap(({ noteIds }) => noteIds)] }
}

function endOf({ startTicks, lengthTicks }: Measure): Ticks {
  return startTicks + lengthTicks
}
