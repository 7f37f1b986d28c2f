import type { Measure } from '../time/meterMap'
import type { Ticks } from '../time/units'
import {
  type ChordNote,
  type Clef,
  keyAt,
  type Repeat,
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
  const folds: { from: number; length: number }[] = []
  for (let bar = 0; bar < bars.length; ) {
    const length = longestTwice(score, bars, bar)
    if (length === 0) bar++
    else {
      folds.push({ from: bar, length })
      bar += 2 * length
    }
  }
  if (folds.length === 0) return score
  const isGone = (bar: number) =>
    folds.some(({ from, length }) => bar >= from + length && bar < from + 2 * length)
  const kept = score.measures.flatMap(({ index }) => (isGone(index) ? [] : [index]))
  const placeOf = new Map(kept.map((bar, place) => [bar, place]))
  const repeats = folds.map(({ from, length }): Repeat => {
    const [first, last] = [score.measures[from + length]!, score.measures[from + 2 * length - 1]!]
    return {
      from: placeOf.get(from)!,
      to: placeOf.get(from + length - 1)! + 1,
      againFromTicks: first.startTicks,
      againToTicks: endOf(last),
    }
  })
  /** Whether something lies before, between or behind what is left out, from end to end. */
  const isKept = (startTicks: Ticks, endTicks: Ticks) =>
    repeats.every(
      ({ againFromTicks, againToTicks }) => endTicks <= againFromTicks || startTicks >= againToTicks,
    )
  const isTickKept = (tick: Ticks) =>
    repeats.every(({ againFromTicks, againToTicks }) => tick < againFromTicks || tick >= againToTicks)
  return {
    ...score,
    measures: kept.map((bar) => score.measures[bar]!),
    repeats,
    tempos: score.tempos.filter(({ tick }) => isTickKept(tick)),
    sections: score.sections.filter(({ tick }) => isTickKept(tick)),
    texts: score.texts.filter(({ tick }) => isTickKept(tick)),
    chordSymbols: score.chordSymbols.filter(({ tick }) => isTickKept(tick)),
    parts: score.parts.map((part): ScorePart => {
      let again = 0
      const measures = kept.map((bar) => {
        const fold = folds.find(({ from, length }) => bar >= from && bar < from + length)
        if (!fold) return part.measures[bar]!
        const second = part.measures[bar + fold.length]!
        return part.measures[bar]!.map((voice, place) => ({
          ...voice,
          elements: voice.elements.map((element, index) => {
            const other = second[place]!.elements[index]!
            if (element.kind === 'rest' || other.kind === 'rest') return element
            again += other.graces.length + other.notes.filter((note) => !note.tiesFromPrevious).length
            return {
              ...element,
              graces: element.graces.map((note, which) => withIds(note, other.graces[which]!)),
              notes: element.notes.map((note, which) => withIds(note, other.notes[which]!)),
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
export function writtenTickOf(repeats: readonly Repeat[], tick: Ticks): Ticks {
  const again = repeats.find(
    ({ againFromTicks, againToTicks }) => tick >= againFromTicks && tick < againToTicks,
  )
  return again ? tick - (again.againToTicks - again.againFromTicks) : tick
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

function withIds(note: ChordNote, again: ChordNote): ChordNote {
  return { ...note, noteIds: [...note.noteIds, ...again.noteIds] }
}

function endOf({ startTicks, lengthTicks }: Measure): Ticks {
  return startTicks + lengthTicks
}
