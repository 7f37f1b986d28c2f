import type { Note, NoteId } from '../event/note'
import type { Ledger } from '../ledger/ledger'
import { isStruckProgram } from '../midi/generalMidi'
import type { Instrument } from '../midi/instrument'
import { beatUnitTicks, type Measure, type MeterChange, MeterMap } from '../time/meterMap'
import { type TempoChange, TempoMap } from '../time/tempoMap'
import type { Milliseconds, Ticks } from '../time/units'
import { AccidentalKeeper } from './accidentals'
import { addBeams } from './beams'
import { cleanNotes } from './clean'
import { clefsFor, findClefs, type StaffClefs } from './clefs'
import { type Dynamics, findDynamics, noDynamics } from './dynamics'
import { findKey } from './keyFinding'
import { type Lyric, noLyrics, placeLyrics, type SungText } from './lyrics'
import { layOutVoice } from './measureLayout'
import { closedHiHat, isHiHat, isPlayedByFoot, openHiHat } from './percussion'
import { type WrittenNote, writeRhythm } from './rhythm/rhythm'
import type {
  Articulation,
  ChordNote,
  Score,
  ScoreElement,
  ScorePart,
  SpelledPitch,
  VoiceInMeasure,
  WrittenText,
} from './score'
import type { KeySignature, ScoreSettings } from './scoreSettings'
import { spellPitches } from './spelling'
import { planStaves, type StaffPlan } from './staves'
import { tempoMarksOf } from './tempoMarks'
import { type Transposition, writtenKey } from './transposition'
import { noteValueOf } from './values'
import { type StaffVoice, staffVoices, type VoiceChord } from './voices'

/** A performed part that is to be written. */
export interface PartSource {
  readonly id: string
  /** As they sound, in order of onset. The same array means the same notes. */
  readonly notes: readonly Note[]
  readonly instrument: Instrument
  /** A key, null for a single staff, "auto" to decide by the notes. */
  readonly staffSplitKey: number | null | 'auto'
  readonly transposition: Transposition
  /** What is sung to it, and what is written above it. */
  readonly sung: readonly SungText[]
  readonly texts: readonly WrittenText[]
}

/** What notation needs to know of a piece. */
export interface ScoreSource {
  readonly tempos: readonly TempoChange[]
  readonly meters: readonly MeterChange[]
  /** Named parts of the piece, in order. */
  readonly sections: readonly { readonly tick: Ticks; readonly name: string }[]
  /** Texts of the whole piece, above the first staff. */
  readonly texts: readonly WrittenText[]
  /** Null: found from the notes. */
  readonly key: KeySignature | null
  readonly settings: ScoreSettings
  readonly parts: readonly PartSource[]
}

/** A part whose rhythm and voices are decided, before bars, key and spelling. */
interface DraftPart {
  readonly id: string
  readonly plan: StaffPlan
  readonly ledger: Ledger
  /** By staff, then voice. */
  readonly voices: readonly (readonly StaffVoice[])[]
  readonly written: readonly WrittenNote[]
  readonly mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>
  readonly transposition: Transposition
  /** By staff. */
  readonly clefs: readonly StaffClefs[]
  readonly dynamics: Dynamics
  readonly lateMs: Milliseconds
  readonly articulations: ReadonlyMap<NoteId, readonly Articulation[]>
  readonly lyrics: ReadonlyMap<NoteId, Lyric>
  readonly unplacedSyllables: number
  readonly texts: readonly WrittenText[]
  readonly endTicks: Ticks
  readonly pitchClassTicks: readonly number[]
}

/**
 * Writes the score of a piece: performed notes become written ones, part by part.
 * The ledger of each part says what became of every note. Parts that have not changed since the last call (same
 * notes, same settings) are taken over, so that an edit costs one part.
 */
export class ScoreBuilder {
  private drafts = new Map<string, { inputs: readonly unknown[]; draft: DraftPart }>()
  private parts = new Map<string, { inputs: readonly unknown[]; part: ScorePart }>()

  build(source: ScoreSource): Score {
    const drafts = source.parts.map((part) => this.draft(part, source))
    const key = source.key ?? findCommonKey(drafts)
    const endTicks = drafts.reduce((end, draft) => Math.max(end, draft.endTicks), 1)
    const measures = new MeterMap(source.meters).measuresUntil(endTicks)
    const parts = drafts.map((draft) => this.part(draft, measures, key))
    const alive = new Set(source.parts.map(({ id }) => id))
    for (const id of this.drafts.keys()) if (!alive.has(id)) this.drafts.delete(id)
    for (const id of this.parts.keys()) if (!alive.has(id)) this.parts.delete(id)
    const texts = source.settings.writesWords ? source.texts : []
    return { key, tempos: tempoMarksOf(source.tempos), sections: source.sections, texts, measures, parts }
  }

  private draft(part: PartSource, source: ScoreSource): DraftPart {
    const { settings, tempos, meters } = source
    const inputs = [
      part.notes,
      JSON.stringify([
        settings,
        tempos,
        meters,
        part.instrument,
        part.staffSplitKey,
        part.transposition,
        part.sung,
        part.texts,
      ]),
    ]
    const known = this.drafts.get(part.id)
    if (known && sameInputs(known.inputs, inputs)) return known.draft
    const draft = draftPart(part, source)
    this.drafts.set(part.id, { inputs, draft })
    return draft
  }

  private part(draft: DraftPart, measures: readonly Measure[], key: KeySignature): ScorePart {
    const inputs = [draft, measures.length, key.fifths, key.mode]
    const known = this.parts.get(draft.id)
    if (known && sameInputs(known.inputs, inputs)) return known.part
    const part = engravePart(draft, measures, key)
    this.parts.set(draft.id, { inputs, part })
    return part
  }
}

/** Writes a score once, without keeping anything. */
export function buildScore(source: ScoreSource): Score {
  return new ScoreBuilder().build(source)
}

function sameInputs(a: readonly unknown[], b: readonly unknown[]): boolean {
  return a.length === b.length && a.every((value, index) => value === b[index])
}

function draftPart(part: PartSource, source: ScoreSource): DraftPart {
  const { notes, instrument } = part
  const { settings } = source
  const tempoMap = new TempoMap(source.tempos)
  const isPercussion = instrument.kind === 'drums'
  const transposition = canBeWritten(notes, part.transposition) ? part.transposition : unchanged
  const clean = cleanNotes(notes, tempoMap, settings, isStruck(instrument))
  const plan = planStaves(clean.notes, instrument, settings.splitKey, part.staffSplitKey, transposition)
  const isOnTwo = plan.clefs.length > 1
  const staffOf = (note: Note) =>
    isOnTwo ? (note.staff ?? (plan.splitKey !== null && note.key < plan.splitKey ? 2 : 1)) : 1
  const rhythm = writeRhythm(clean.notes, source, settings, staffOf)
  const { written, mergedInto } = mergeCoincident(rhythm.written, clean.mergedInto)
  const dynamics = settings.readsDynamics ? findDynamics(written) : noDynamics
  const staves = plan.clefs.map((_, index) => written.filter(({ note }) => staffOf(note) === index + 1))
  const shaped = isPercussion
    ? staves.map((staff) => strokeLengths(staff, source, settings.severalVoices))
    : staves
  const voices = isPercussion
    ? shaped.map((staff) => handsAndFeet(staff, settings.severalVoices))
    : shaped.map((staff) => staffVoices(staff, settings.severalVoices))
  const pitchClassTicks = new Array<number>(12).fill(0)
  let endTicks = 0
  for (const { note, onsetTicks, endTicks: end } of written) {
    if (!isPercussion) pitchClassTicks[note.key % 12]! += end - onsetTicks
    endTicks = Math.max(endTicks, end)
  }
  const measures = new MeterMap(source.meters).measuresUntil(Math.max(1, endTicks))
  return {
    id: part.id,
    plan,
    voices,
    written,
    mergedInto,
    transposition,
    dynamics,
    lateMs: rhythm.lateMs,
    clefs: shaped.map((staff, index) =>
      settings.readsClefs
        ? findClefs(staff, measures, clefsFor(plan.clefs[index]!, instrument, isOnTwo), {
            isShared: sharedBars(voices[index]!, measures),
            writtenAbove: transposition.semitones,
          })
        : { clef: plan.clefs[index]!, changes: [], octaveLines: [] },
    ),
    articulations: articulationsOf(written, dynamics, settings.readsTouch, isPercussion),
    ...(settings.writesWords ? placeLyrics(clean.notes, part.sung) : noLyrics),
    texts: settings.writesWords ? part.texts : [],
    endTicks,
    pitchClassTicks,
    ledger: {
      captured: notes.length,
      written: written.length,
      merged: clean.merged + (rhythm.written.length - written.length),
      coincident: coincidentNotes(written),
      filtered: clean.filtered,
    },
  }
}

/** Drums, and pitched instruments that are struck. */
function isStruck(instrument: Instrument): boolean {
  return instrument.kind === 'drums' || (instrument.kind === 'program' && isStruckProgram(instrument.program))
}

/** One notehead where the same key falls twice on one place of the grid; the longer length stays. */
function mergeCoincident(
  rhythm: readonly WrittenNote[],
  earlier: ReadonlyMap<NoteId, readonly NoteId[]>,
): { written: WrittenNote[]; mergedInto: Map<NoteId, readonly NoteId[]> } {
  const mergedInto = new Map(earlier)
  const written: WrittenNote[] = []
  const places = new Map<string, number>()
  for (const each of rhythm) {
    // Two voices that meet on one key are two notes.
    const address = `${each.onsetTicks}:${each.note.key}:${each.note.voice ?? ''}`
    const place = places.get(address)
    if (place === undefined) {
      places.set(address, written.length)
      written.push(each)
      continue
    }
    const stands = written[place]!
    written[place] = { ...stands, endTicks: Math.max(stands.endTicks, each.endTicks) }
    const ids = mergedInto.get(each.note.id) ?? []
    mergedInto.set(stands.note.id, [...(mergedInto.get(stands.note.id) ?? []), each.note.id, ...ids])
  }
  return { written, mergedInto }
}

const unchanged: Transposition = { semitones: 0, steps: 0 }

/** Octaves are counted from 0 to 9 on the page, whatever a key there is called: B sharp or C, C flat or B. */
const [lowestKey, highestKey] = [14, 129]

/** A part that would leave the octaves of the page is written as it sounds. */
function canBeWritten(notes: readonly Note[], { semitones }: Transposition): boolean {
  return (
    semitones === 0 || notes.every(({ key }) => key + semitones >= lowestKey && key + semitones <= highestKey)
  )
}

/** Whether several voices have notes in a bar of a staff. */
function sharedBars(voices: readonly StaffVoice[], measures: readonly Measure[]): (bar: number) => boolean {
  const counts = new Array<number>(measures.length).fill(0)
  for (const { chords } of voices) {
    const bars = new Set<number>()
    let bar = 0
    for (const { onsetTicks, endTicks } of chords) {
      while (bar + 1 < measures.length && measures[bar + 1]!.startTicks <= onsetTicks) bar++
      for (let at = bar; at < measures.length && measures[at]!.startTicks < endTicks; at++) bars.add(at)
    }
    for (const each of bars) counts[each]!++
  }
  return (bar) => counts[bar]! > 1
}

/** How each note is played, where that is not the usual way. */
function articulationsOf(
  written: readonly WrittenNote[],
  { accented }: Dynamics,
  readsTouch: boolean,
  isPercussion: boolean,
): Map<NoteId, readonly Articulation[]> {
  const articulations = new Map<NoteId, readonly Articulation[]>()
  let wasOpen = false
  for (const { note, isShort } of written) {
    const own: Articulation[] = []
    if (isPercussion && note.key === openHiHat) own.push('open')
    if (isPercussion && note.key === closedHiHat && wasOpen) own.push('closed')
    if (isHiHat(note.key)) wasOpen = note.key === openHiHat
    if (readsTouch && isShort && !isPercussion) own.push('staccato')
    if (accented.has(note.id)) own.push('accent')
    if (own.length > 0) articulations.set(note.id, own)
  }
  return articulations
}

/** Notes that begin on the place and key of one of another voice. */
function coincidentNotes(written: readonly WrittenNote[]): number {
  const places = new Set<string>()
  for (const { onsetTicks, note } of written) places.add(`${onsetTicks}:${note.key}`)
  return written.length - places.size
}

const isByFoot = ({ note }: WrittenNote) => isPlayedByFoot(note.key)

/** What hands play in one voice, what feet play in another. */
function handsAndFeet(staff: readonly WrittenNote[], severalVoices: boolean): StaffVoice[] {
  if (!severalVoices) return staffVoices(staff, false)
  const parts = [staff.filter((each) => !isByFoot(each)), staff.filter(isByFoot)]
  return parts.flatMap((part) => (part.length > 0 ? staffVoices(part, false) : []))
}

/** Lengths for what hands and feet play, each by itself. */
function strokeLengths(
  staff: readonly WrittenNote[],
  source: ScoreSource,
  severalVoices: boolean,
): WrittenNote[] {
  if (!severalVoices) return percussionLengths(staff, source)
  const ends = new Map(
    [staff.filter((each) => !isByFoot(each)), staff.filter(isByFoot)].flatMap((part) =>
      percussionLengths(part, source).map((each) => [each.note.id, each] as const),
    ),
  )
  return staff.map(({ note }) => ends.get(note.id)!)
}

/** A hit has no length: it is written up to the next hit, or to the end of its beat. */
function percussionLengths(staff: readonly WrittenNote[], source: ScoreSource): WrittenNote[] {
  const meterMap = new MeterMap(source.meters)
  const onsets = [...new Set(staff.map((each) => each.onsetTicks))]
  const next = new Map(onsets.map((onset, index) => [onset, onsets[index + 1] ?? Number.POSITIVE_INFINITY]))
  return staff.map((each) => {
    const measure = meterMap.measureAt(each.onsetTicks)
    const beat = beatUnitTicks(measure)
    const inBar = each.onsetTicks - measure.startTicks
    const beatEnd = measure.startTicks + (Math.floor(inBar / beat) + 1) * beat
    return { ...each, endTicks: Math.min(next.get(each.onsetTicks)!, beatEnd) }
  })
}

function findCommonKey(drafts: readonly DraftPart[]): KeySignature {
  const sums = new Array<number>(12).fill(0)
  for (const draft of drafts) for (let i = 0; i < 12; i++) sums[i]! += draft.pitchClassTicks[i]!
  return findKey(sums).key
}

function engravePart(draft: DraftPart, measures: readonly Measure[], pieceKey: KeySignature): ScorePart {
  const { plan, transposition } = draft
  const key = writtenKey(pieceKey, transposition)
  const spelled = new Map<NoteId, SpelledPitch>()
  const pitches = spellPitches(
    draft.written.map(({ note }) => note.key + transposition.semitones),
    key,
  )
  for (const [index, { note }] of draft.written.entries()) spelled.set(note.id, pitches[index]!)

  const toWrite: PartWriting = {
    spelled,
    mergedInto: draft.mergedInto,
    lyrics: draft.lyrics,
    articulations: draft.articulations,
  }
  const numbers = voiceNumbers(draft.voices)
  const byMeasure: VoiceInMeasure[][] = measures.map(() => [])
  // Bars of one length in which nothing sounds are one and the same: an empty bar costs nothing.
  const empty = new Map<string, VoiceInMeasure>()
  const emptyBar = (voice: number, staff: number, measure: Measure): VoiceInMeasure => {
    const address = `${voice} ${measure.lengthTicks}`
    let bar = empty.get(address)
    if (!bar) {
      bar = { voice, staff, elements: measureElements([], measure, false, toWrite) }
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
        const elements = measureElements(chords, measure, lineIndex > 0, toWrite)
        byMeasure[index]!.push({ voice: voiceNumber, staff: staffIndex + 1, elements })
      }
    }
  }
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
    key,
    splitKey: plan.splitKey,
    measures: byMeasure.map((voices) =>
      voices.every((voice) => isEmptyBar(voice)) ? voices : withAccidentals(voices, plan, key),
    ),
    texts: draft.texts,
    isSung: draft.lyrics.size > 0,
    unplacedSyllables: draft.unplacedSyllables,
    dynamics: draft.dynamics,
    lateMs: draft.lateMs,
    ledger: draft.ledger,
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
  readonly lyrics: ReadonlyMap<NoteId, Lyric>
  readonly articulations: ReadonlyMap<NoteId, readonly Articulation[]>
}

function measureElements(
  chords: readonly VoiceChord[],
  measure: Measure,
  isSecondary: boolean,
  { spelled, mergedInto, lyrics, articulations }: PartWriting,
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
  const pieces = layOutVoice(chords, measure)
  const elements = pieces.map((piece): ScoreElement => {
    const time = {
      startTicks: piece.startTicks,
      durationTicks: piece.durationTicks,
      value: noteValueOf(piece.writtenTicks) ?? { type: '128th' as const, dots: 0 as const },
      tuplet: piece.tuplet,
    }
    if (!piece.chord) return { kind: 'rest', ...time, isWholeMeasure: false, isHidden: isSecondary }
    const from = measure.startTicks + piece.startTicks
    const to = from + piece.durationTicks
    const chord = piece.chord
    return {
      kind: 'chord',
      ...time,
      beams: [],
      articulations: chord.onsetTicks < from ? [] : articulationsOfChord(chord, articulations),
      lyric: chord.onsetTicks < from ? null : lyricOf(chord, mergedInto, lyrics),
      notes: chord.notes.map(
        ({ note }): ChordNote => ({
          noteIds: [note.id, ...(mergedInto.get(note.id) ?? [])],
          velocity: note.velocity,
          key: note.key,
          pitch: spelled.get(note.id)!,
          tiesFromPrevious: chord.onsetTicks < from,
          tiesToNext: chord.endTicks > to,
          accidental: null,
        }),
      ),
    }
  })
  return addBeams(elements, beatUnitTicks(measure))
}

/** A chord is short where all of it is, and accented where any of it is. */
function articulationsOfChord(
  { notes }: VoiceChord,
  articulations: PartWriting['articulations'],
): readonly Articulation[] {
  if (articulations.size === 0) return []
  const of =
    (articulation: Articulation) =>
    ({ note }: VoiceChord['notes'][number]) =>
      articulations.get(note.id)?.includes(articulation) ?? false
  const found: Articulation[] = []
  if (notes.every(of('staccato'))) found.push('staccato')
  for (const each of ['accent', 'open', 'closed'] as const) if (notes.some(of(each))) found.push(each)
  return found
}

/** The syllable of a chord: that of any note of it. */
function lyricOf(
  { notes }: VoiceChord,
  mergedInto: PartWriting['mergedInto'],
  lyrics: PartWriting['lyrics'],
): Lyric | null {
  if (lyrics.size === 0) return null
  for (const { note } of notes)
    for (const id of [note.id, ...(mergedInto.get(note.id) ?? [])]) {
      const lyric = lyrics.get(id)
      if (lyric) return lyric
    }
  return null
}

/** Signs depend on all voices of a staff in order of time. */
function withAccidentals(
  voices: readonly VoiceInMeasure[],
  plan: StaffPlan,
  key: KeySignature,
): readonly VoiceInMeasure[] {
  // Keys of percussion are instruments.
  if (plan.clefs[0] === 'percussion') return voices
  const signs = new Map<ScoreElement, ChordNote[]>()
  for (let staff = 1; staff <= plan.clefs.length; staff++) {
    const keeper = new AccidentalKeeper(key)
    const elements = voices
      .filter((voice) => voice.staff === staff)
      .flatMap((voice) => voice.elements)
      .sort((a, b) => a.startTicks - b.startTicks)
    for (const element of elements)
      if (element.kind === 'chord')
        signs.set(
          element,
          element.notes.map((note) => ({
            ...note,
            accidental: keeper.signFor(note.pitch, note.tiesFromPrevious),
          })),
        )
  }
  return voices.map((voice) => ({
    ...voice,
    elements: voice.elements.map((element) =>
      element.kind === 'chord' ? { ...element, notes: signs.get(element)! } : element,
    ),
  }))
}
