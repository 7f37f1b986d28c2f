import type { Note, NoteId } from '../event/note'
import { beatUnitTicks, type Measure } from '../time/meterMap'
import type { Ticks } from '../time/units'
import { withAccidentals } from './accidentals'
import { hideRests } from './amendments/amendRests'
import { addBeams } from './beams'
import { type DraftPart, gracesOf, namedNotes } from './draftPart'
import type { Lyric } from './lyrics'
import { type ToldLayouts, type ToldPiece, toldLayout } from './manuscript/toldLayout'
import { layOutVoice, type Piece } from './measureLayout'
import {
  type Articulation,
  type ChordNote,
  keyAt,
  type ScoreElement,
  type ScorePart,
  type SpelledPitch,
  type VoiceInMeasure,
  type WrittenGlissando,
} from './score'
import type { KeyChange } from './scoreSettings'
import { type Fifths, pitchOf } from './spelling'
import { writtenKey } from './transposition'
import { noteValueOf } from './values'
import type { StaffVoice, VoiceChord } from './voices'

/** Writes a part in bars: values, ties, beams, spelling and signs. */
export function engravePart(
  draft: DraftPart,
  measures: readonly Measure[],
  pieceKeys: readonly KeyChange[],
  names: readonly Fifths[],
): ScorePart {
  const { plan, transposition } = draft
  const keys = pieceKeys.map((key): KeyChange => ({ tick: key.tick, ...writtenKey(key, transposition) }))
  const spelled = new Map<NoteId, SpelledPitch>()
  for (const [index, { note, onsetTicks }] of namedNotes(draft).entries()) {
    // A transposing part spells in its own key: names move as its key does.
    const moved = keyAt(keys, onsetTicks).fifths - keyAt(pieceKeys, onsetTicks).fifths
    spelled.set(note.id, pitchOf(note.key + transposition.semitones, (names[index] ?? 0) + moved))
  }

  const toWrite: PartWriting = {
    spelled,
    mergedInto: draft.mergedInto,
    graces: draft.graces,
    reached: draft.reached,
    lyrics: draft.lyrics,
    articulations: draft.articulations,
    beamsOverRests: draft.beamsOverRests,
    fingerings: draft.fingerings,
    layouts: draft.layouts,
  }
  const numbers = voiceNumbers(draft.voices)
  const byMeasure: VoiceInMeasure[][] = measures.map(() => [])
  // Bars of one length in which nothing sounds are one and the same: an empty bar costs nothing.
  const empty = new Map<string, VoiceInMeasure>()
  const emptyBar = (voice: number, staff: number, measure: Measure): VoiceInMeasure => {
    const address = `${voice} ${measure.lengthTicks}`
    let bar = empty.get(address)
    if (!bar) {
      bar = { voice, staff, elements: measureElements([], measure, false, staff, toWrite) }
      empty.set(address, bar)
    }
    return bar
  }
  for (const [staffIndex, lines] of draft.voices.entries()) {
    const staffNumbers = numbers[staffIndex]!
    for (const [lineIndex, voiceNumber] of staffNumbers.entries()) {
      const line = lines[lineIndex]?.chords ?? []
      let first = 0
      for (const [index, measure] of measures.entries()) {
        const endTicks = measure.startTicks + measure.lengthTicks
        while (first < line.length && line[first]!.endTicks <= measure.startTicks) first++
        let last = first
        while (last < line.length && line[last]!.onsetTicks < endTicks) last++
        if (first === last) {
          if (lineIndex === 0) byMeasure[index]!.push(emptyBar(voiceNumber, staffIndex + 1, measure))
          continue
        }
        const chords = line.slice(first, last)
        const elements = measureElements(chords, measure, lineIndex > 0, staffIndex + 1, toWrite)
        byMeasure[index]!.push({ voice: voiceNumber, staff: staffIndex + 1, elements })
      }
    }
  }
  const { bars, misfits } = hideRests(byMeasure, measures, draft.hiddenRests)
  return {
    id: draft.id,
    clefs: draft.clefs.map(({ clef }) => clef),
    clefChanges: draft.clefs.flatMap(({ changes }, index) =>
      changes.map((change) => ({ ...change, staff: index + 1 })),
    ),
    octaveLines: draft.clefs.flatMap(({ octaveLines }, index) =>
      octaveLines.map((line) => ({ ...line, staff: index + 1 })),
    ),
    transposition,
    keys,
    splitKey: draft.doesSplitMove ? null : plan.splitKey,
    tornLines: draft.tornLines,
    measures: bars.map((voices, bar) =>
      voices.every((voice) => isEmptyBar(voice))
        ? voices
        : withAccidentals(voices, plan.clefs, keyAt(keys, measures[bar]!.startTicks)),
    ),
    texts: draft.texts,
    pedals: draft.pedals,
    slurs: draft.slurs.map(({ staffIndex, lineIndex, startTicks, endTicks }) => ({
      voice: numbers[staffIndex]![lineIndex]!,
      startTicks,
      endTicks,
    })),
    glissandi: glissandiOf(draft, numbers),
    isSung: draft.lyrics.size > 0,
    unplacedSyllables: draft.unplacedSyllables,
    dynamics: draft.dynamics,
    lateMs: draft.lateMs,
    ledger: draft.ledger,
    misfits: [...draft.misfits, ...misfits],
  }
}

/**
 * A number for each line of each staff, one at least: that of its voice, or the lowest that is free. Of a voice on
 * both staves the one with more of it keeps the number, since files name a voice once in a part.
 */
function voiceNumbers(staves: DraftPart['voices']): number[][] {
  const used = new Set<number>()
  const take = (wanted: number | null): number => {
    let number = wanted ?? 1
    while (used.has(number)) number++
    used.add(number)
    return number
  }
  const isHome = (line: StaffVoice) =>
    staves.every((lines) =>
      lines.every(({ number, chords }) => number !== line.number || chords.length <= line.chords.length),
    )
  const told = staves.map((lines) =>
    lines.map((line) =>
      line.number !== null && !used.has(line.number) && isHome(line) ? take(line.number) : null,
    ),
  )
  return told.map((lines) => (lines.length > 0 ? lines : [null]).map((number) => number ?? take(null)))
}

function isEmptyBar({ elements }: VoiceInMeasure): boolean {
  return elements.every((element) => element.kind === 'rest')
}

/** What is known of the notes of a part when its bars are written, by note. */
interface PartWriting {
  readonly spelled: ReadonlyMap<NoteId, SpelledPitch>
  readonly mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>
  readonly graces: DraftPart['graces']
  readonly reached: DraftPart['reached']
  readonly lyrics: ReadonlyMap<NoteId, Lyric>
  readonly articulations: ReadonlyMap<NoteId, readonly Articulation[]>
  readonly beamsOverRests: boolean
  readonly fingerings: ReadonlyMap<NoteId, string>
  readonly layouts: ToldLayouts
}

function measureElements(
  chords: readonly VoiceChord[],
  measure: Measure,
  isSecondary: boolean,
  staff: number,
  toWrite: PartWriting,
): ScoreElement[] {
  if (chords.length === 0)
    return [
      {
        kind: 'rest',
        startTicks: 0,
        durationTicks: measure.lengthTicks,
        value: { type: 'whole', dots: 0 },
        tuplet: null,
        isWholeMeasure: true,
        isHidden: isSecondary,
      },
    ]
  const { spelled, mergedInto, graces, reached, lyrics, articulations, beamsOverRests, fingerings, layouts } =
    toWrite
  const noteOf = ({ id, velocity, key }: Note): ChordNote => ({
    noteIds: [id, ...(mergedInto.get(id) ?? [])],
    velocity,
    key,
    pitch: spelled.get(id)!,
    tiesFromPrevious: false,
    tiesToNext: false,
    fingering: fingerings.get(id) ?? null,
    accidental: null,
  })
  const pieces: readonly (Piece & Partial<ToldPiece>)[] =
    toldLayout(layouts, chords, measure) ?? layOutVoice(chords, measure)
  const elements = pieces.map((piece): ScoreElement => {
    const time = {
      startTicks: piece.startTicks,
      durationTicks: piece.durationTicks,
      value: piece.value ?? noteValueOf(piece.writtenTicks) ?? { type: '128th' as const, dots: 0 as const },
      tuplet: piece.tuplet,
    }
    if (!piece.chord)
      return { kind: 'rest', ...time, isWholeMeasure: false, isHidden: piece.isHidden ?? isSecondary }
    const from = measure.startTicks + piece.startTicks
    const to = from + piece.durationTicks
    const chord = piece.chord
    return {
      kind: 'chord',
      ...time,
      beams: [],
      crossesTo: reached.has(chord.notes[0]!.note.id) ? 3 - staff : null,
      articulations: chord.onsetTicks < from ? [] : articulationsOfChord(chord, articulations),
      graces:
        chord.onsetTicks < from || graces.size === 0
          ? []
          : chord.notes.flatMap(({ note, held }) =>
              held?.fromBefore ? [] : gracesOf(note.id, mergedInto, graces).map(noteOf),
            ),
      lyric: chord.onsetTicks < from ? null : lyricOf(chord, mergedInto, lyrics),
      notes: chord.notes.map(
        ({ note, held }): ChordNote => ({
          ...noteOf(note),
          tiesFromPrevious: chord.onsetTicks < from || (held?.fromBefore ?? false),
          tiesToNext: chord.endTicks > to || (held?.intoNext ?? false),
        }),
      ),
    }
  })
  return addBeams(elements, beatUnitTicks(measure), beamsOverRests)
}

/** Of a chord that has one of these at any of its notes, once. */
const signsOfAny = [
  'accent',
  'marcato',
  'fermata',
  'breath',
  'up bow',
  'down bow',
  'open',
  'closed',
  'trill',
  'upper mordent',
  'lower mordent',
  'turn',
  'tremolo',
] as const
/** Of a chord all notes of which have one of these. */
const signsOfAll = ['staccato', 'staccatissimo', 'tenuto'] as const

/** A chord is short where all of it is, and accented where any of it is. */
function articulationsOfChord(
  chord: VoiceChord,
  articulations: PartWriting['articulations'],
): readonly Articulation[] {
  const notes = chord.notes.filter(({ held }) => !held?.fromBefore)
  if (articulations.size === 0 || notes.length === 0) return []
  const of =
    (articulation: Articulation) =>
    ({ note }: VoiceChord['notes'][number]) =>
      articulations.get(note.id)?.includes(articulation) ?? false
  const found: Articulation[] = []
  for (const each of signsOfAll) if (notes.every(of(each))) found.push(each)
  if (notes.length > 1 && notes.every(of('rolled'))) found.push('rolled')
  for (const each of signsOfAny) if (notes.some(of(each))) found.push(each)
  return found
}

/** The syllable of a chord: that of any note of it. */
function lyricOf(
  { notes }: VoiceChord,
  mergedInto: PartWriting['mergedInto'],
  lyrics: PartWriting['lyrics'],
): Lyric | null {
  if (lyrics.size === 0) return null
  for (const { note, held } of notes) {
    if (held?.fromBefore) continue
    for (const id of [note.id, ...(mergedInto.get(note.id) ?? [])]) {
      const lyric = lyrics.get(id)
      if (lyric) return lyric
    }
  }
  return null
}

/** Slides between the chords that their notes are in; where one of them is not on the page there is none. */
function glissandiOf({ glissandi, voices }: DraftPart, numbers: readonly (readonly number[])[]) {
  if (glissandi.length === 0) return []
  const places = new Map<NoteId, { readonly voice: number; readonly tick: Ticks }>()
  for (const [staffIndex, lines] of voices.entries())
    for (const [lineIndex, { chords }] of lines.entries())
      for (const { notes, onsetTicks } of chords)
        for (const { note } of notes)
          places.set(note.id, { voice: numbers[staffIndex]![lineIndex]!, tick: onsetTicks })
  return glissandi.flatMap(({ from, to }): WrittenGlissando[] => {
    const [start, end] = [places.get(from), places.get(to)]
    return start && end && start.tick < end.tick
      ? [{ voice: start.voice, startTicks: start.tick, endVoice: end.voice, endTicks: end.tick }]
      : []
  })
}
