import type { Note, NoteId } from '../../event/note'
import { firstIndex } from '../../time/firstIndex'
import type { Measure } from '../../time/meterMap'
import type { Ticks } from '../../time/units'
import { longestFingering } from '../amendments/amendment'
import { type Head, standingIn } from '../heads'
import { layOutVoice, type Piece } from '../measureLayout'
import { keyAt, type Score, type ScoreElement, type ScorePart, type SpelledPitch } from '../score'
import { type Fifths, letters } from '../spelling'
import { noteValueOf } from '../values'
import type { VoiceChord } from '../voices'
import { type Manuscript, pieceMarks, valueIndex } from './manuscript'

/** A note that sounds for an ornament, by the note that is written for it. */
export type SoundsWithin = ReadonlyMap<NoteId, readonly NoteId[]>

/**
 * What is written of a part, told by the notes that sound for it.
 *
 * @param score in which nothing is repeated
 * @param notes the notes of the part as they are played
 * @returns null for a part without notes
 */
export function manuscriptOf(
  score: Score,
  partIndex: number,
  notes: readonly Note[],
  within: SoundsWithin,
): Manuscript | null {
  const part = score.parts[partIndex]!
  const heads = standingIn(score).headsOf(partIndex)
  const main = heads.filter(({ isGrace }) => !isGrace).sort((a, b) => a.onsetTicks - b.onsetTicks)
  if (main.length === 0) return null
  const played = new Map(notes.map((note) => [note.id, note]))
  const idOf = ({ note }: Head) => note.noteIds[0]!
  const anchor = anchorsAmong(main)
  const at = headsAt(main)
  const chordsById = new Map<NoteId, Extract<ScoreElement, { kind: 'chord' }>>()
  for (const head of main) chordsById.set(idOf(head), head.chord)
  const nameOf = nameIn(score, part)
  const pairs = <T extends { readonly voice: number; readonly startTicks: Ticks; readonly endTicks: Ticks }>(
    all: readonly T[],
    endVoice: (each: T) => number,
  ) =>
    all.flatMap((each): [NoteId, NoteId][] => {
      const [from, to] = [at(each.voice, each.startTicks), at(endVoice(each), each.endTicks)]
      return from && to ? [[idOf(from), idOf(to)]] : []
    })
  const end = score.measures.at(-1)!
  const signed = new Set<unknown>()
  const signs: Manuscript['signs'] = main.flatMap(({ chord, note }) => {
    signed.add(chord)
    return chord.articulations.map((sign): [NoteId, typeof sign] => [note.noteIds[0]!, sign])
  })
  return {
    clefs: [...part.clefs],
    heads: headNumbersOf(main, played, nameOf),
    within: [...within].filter(([id]) => chordsById.has(id)).map(([id, ids]) => [id, ...ids]),
    graces: main.flatMap(({ note, chord, onsetTicks }) =>
      chord.graces.length > 0 && firstBegun(chord) === note.noteIds[0]
        ? [
            {
              ids: [note.noteIds[0]!, ...chord.graces.map((grace) => grace.noteIds[0]!)],
              fifths: chord.graces.map((grace) => nameOf(grace.pitch, onsetTicks)),
            },
          ]
        : [],
    ),
    signs,
    fingerings: main.flatMap(({ note }) =>
      note.fingering ? [[note.noteIds[0]!, note.fingering.slice(0, longestFingering)]] : [],
    ) as Manuscript['fingerings'],
    slurs: pairs(part.slurs, ({ voice }) => voice),
    glissandi: pairs(part.glissandi, ({ endVoice }) => endVoice),
    levels: part.dynamics.levels.map(({ tick, mark }) => [anchor(tick), mark]),
    hairpins: part.dynamics.hairpins.map(({ startTicks, endTicks, kind }) => [
      anchor(startTicks),
      anchor(endTicks),
      kind,
    ]),
    pedals: part.pedals.map(({ startTicks, endTicks }) => [anchor(startTicks), anchor(endTicks)]),
    clefChanges: part.clefChanges.map(({ bar, offsetTicks = 0, staff, clef }) => [
      anchor(score.measures[bar]!.startTicks + offsetTicks),
      staff as 1 | 2,
      clef,
    ]),
    octaveLines: part.octaveLines.map(({ startTicks, endTicks, staff, octaves }) => [
      anchor(startTicks),
      anchor(endTicks),
      staff as 1 | 2,
      octaves,
    ]),
    reached: main.flatMap((head) => (head.chord.crossesTo === null ? [] : [idOf(head)])),
    layouts: layoutsOf(part, score.measures),
    end: anchor(end.startTicks + end.lengthTicks),
  }
}

/** The numbers of all heads, one after the other. */
function headNumbersOf(
  heads: readonly Head[],
  played: ReadonlyMap<NoteId, Note>,
  nameOf: (pitch: SpelledPitch, tick: Ticks) => Fifths,
): number[] {
  const numbers: number[] = []
  for (const { note, onsetTicks, endTicks } of heads) {
    const sounding = played.get(note.noteIds[0]!)!
    numbers.push(sounding.id, sounding.onsetTicks, sounding.durationTicks, sounding.key)
    numbers.push(onsetTicks, endTicks - onsetTicks, nameOf(note.pitch, onsetTicks))
  }
  return numbers
}

/** The lowest note of a chord that is struck with it. */
function firstBegun({ notes }: Head['chord']): NoteId | undefined {
  return notes.find(({ tiesFromPrevious }) => !tiesFromPrevious)?.noteIds[0]
}

/** A place by the last note that begins there or before it, else by the first of all. */
function anchorsAmong(sorted: readonly Head[]): (tick: Ticks) => [NoteId, Ticks] {
  return (tick) => {
    const behind = firstIndex(sorted.length, (index) => sorted[index]!.onsetTicks > tick)
    const head = sorted[Math.max(0, behind - 1)]!
    return [head.note.noteIds[0]!, tick - head.onsetTicks]
  }
}

/** The lowest note of the chord of a voice that begins at a place. */
function headsAt(sorted: readonly Head[]): (voice: number, tick: Ticks) => Head | undefined {
  const byPlace = new Map<string, Head>()
  for (const head of sorted) {
    const address = `${head.voice} ${head.onsetTicks}`
    if (!byPlace.has(address)) byPlace.set(address, head)
  }
  return (voice, tick) => byPlace.get(`${voice} ${tick}`)
}

/** The names of a part as they sound, on the line of fifths. */
function nameIn({ keys }: Score, part: ScorePart): (pitch: SpelledPitch, tick: Ticks) => Fifths {
  return ({ step, alter }, tick) => {
    const moved = keyAt(part.keys, tick).fifths - keyAt(keys, tick).fifths
    return letters.indexOf(step) - 1 + 7 * alter - moved
  }
}

/** The bars of a part that are divided otherwise than they would be here. */
function layoutsOf({ measures: bars }: ScorePart, measures: readonly Measure[]): Manuscript['layouts'] {
  const layouts: Manuscript['layouts'] = []
  const onsets = new Map<NoteId, Ticks>()
  const firstOf = firstWithNotes(bars)
  const known = new Map<string, boolean>()
  for (const [bar, voices] of bars.entries()) {
    const measure = measures[bar]!
    for (const { elements, voice, staff } of voices) {
      const first = elements.find((element) => element.kind === 'chord')
      if (first?.kind !== 'chord') continue
      for (const element of elements)
        if (element.kind === 'chord')
          for (const { noteIds, tiesFromPrevious } of element.notes)
            if (!tiesFromPrevious) onsets.set(noteIds[0]!, measure.startTicks + element.startTicks)
      const isSecondary = voice !== firstOf.get(staff)
      // One rhythm is found again and again in a piece.
      const rhythm = rhythmOf(elements, measure, isSecondary)
      let isUsual = known.get(rhythm)
      if (isUsual === undefined) {
        isUsual = isAsUsual(elements, layOutVoice(chordsOf(elements, measure), measure), isSecondary)
        known.set(rhythm, isUsual)
      }
      if (isUsual) continue
      const noteId = first.notes[0]!.noteIds[0]!
      layouts.push({
        first: [noteId, measure.startTicks - (onsets.get(noteId) ?? measure.startTicks)],
        pieces: elements.flatMap((element) => [
          element.startTicks,
          element.durationTicks,
          valueIndex.get(element.value.type)!,
          element.value.dots,
          element.tuplet?.actual ?? 0,
          element.tuplet?.normal ?? 0,
          (element.kind === 'rest' ? pieceMarks.rest : 0) +
            (element.kind === 'rest' && element.isHidden ? pieceMarks.hidden : 0) +
            (element.tuplet?.starts ? pieceMarks.tupletStarts : 0) +
            (element.tuplet?.stops ? pieceMarks.tupletStops : 0),
        ]),
      })
    }
  }
  return layouts
}

/** The first voice of each staff that has notes. */
function firstWithNotes(bars: ScorePart['measures']): ReadonlyMap<number, number> {
  const first = new Map<number, number>()
  for (const { elements, voice, staff } of bars.flat())
    if (elements.some(({ kind }) => kind === 'chord'))
      first.set(staff, Math.min(voice, first.get(staff) ?? voice))
  return first
}

/** Everything of a line that tells how it is divided. */
function rhythmOf(elements: readonly ScoreElement[], measure: Measure, isSecondary: boolean): string {
  const { numerator, denominator, writtenIn } = measure
  let rhythm = `${numerator}/${denominator} ${writtenIn?.numerator}/${writtenIn?.denominator} ${isSecondary}`
  for (const element of elements) {
    const { durationTicks, value, tuplet, kind } = element
    const place = tuplet ? `${tuplet.actual}:${tuplet.normal}${tuplet.starts}${tuplet.stops}` : ''
    const how =
      kind === 'rest'
        ? `r${element.isHidden}`
        : element.notes.map(({ tiesFromPrevious, tiesToNext }) => `${tiesFromPrevious}${tiesToNext}`).join()
    rhythm += ` ${durationTicks}${value.type}${value.dots}${place}${how}`
  }
  return rhythm
}

/** The chords of a line, as voices have them: what is tied is one. */
function chordsOf(elements: readonly ScoreElement[], measure: Measure): VoiceChord[] {
  const chords: { onsetTicks: Ticks; endTicks: Ticks; ids: string }[] = []
  for (const element of elements) {
    if (element.kind === 'rest') continue
    const onsetTicks = measure.startTicks + element.startTicks
    const endTicks = onsetTicks + element.durationTicks
    const ids = element.notes.map(({ noteIds }) => noteIds[0]).join(' ')
    const last = chords.at(-1)
    if (last?.endTicks === onsetTicks && last.ids === ids) last.endTicks = endTicks
    else chords.push({ onsetTicks, endTicks, ids })
  }
  return chords.map(({ onsetTicks, endTicks }) => ({ onsetTicks, endTicks, notes: [] }))
}

function isAsUsual(
  elements: readonly ScoreElement[],
  usual: readonly Piece[],
  isSecondary: boolean,
): boolean {
  return (
    elements.length === usual.length &&
    elements.every((element, index) => {
      const piece = usual[index]!
      const value = noteValueOf(piece.writtenTicks)
      const [a, b] = [element.tuplet, piece.tuplet]
      return (
        element.startTicks === piece.startTicks &&
        element.durationTicks === piece.durationTicks &&
        value?.type === element.value.type &&
        value.dots === element.value.dots &&
        a?.actual === b?.actual &&
        a?.normal === b?.normal &&
        a?.starts === b?.starts &&
        a?.stops === b?.stops &&
        (element.kind === 'rest') === (piece.chord === null) &&
        (element.kind !== 'rest' || element.isHidden === isSecondary)
      )
    })
  )
}
