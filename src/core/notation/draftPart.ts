import type { Note, NoteId } from '../event/note'
import type { Ledger } from '../ledger/ledger'
import { isStruckProgram } from '../midi/generalMidi'
import type { Instrument } from '../midi/instrument'
import { type Measure, MeterMap } from '../time/meterMap'
import { TempoMap } from '../time/tempoMap'
import type { Milliseconds, Ticks } from '../time/units'
import { amendClefs } from './amendments/amendClefs'
import { amendLines } from './amendments/amendLines'
import { amendDynamics, amendSigns, amendSlurs, type Stand, standsOf } from './amendments/amendMarks'
import {
  type Amendment,
  type AmendmentOf,
  byNote,
  isOfNote,
  type Misfit,
  type NoteAmendment,
} from './amendments/amendment'
import { amendTimes, unwritable } from './amendments/amendTimes'
import { type CleanNotes, type CleanSettings, cleanNotes } from './clean'
import { clefsFor, findClefs, type StaffClefs } from './clefs'
import { reachedOver } from './crossStaff'
import { type Dynamics, findDynamics, noDynamics } from './dynamics'
import { handsOf, noneTorn, type TornLines, tornLines } from './hands'
import { type Lyric, noLyrics, placeLyrics } from './lyrics'
import { type Glissando, type Ornamented, unornamented } from './ornaments/ornamented'
import { readOrnaments } from './ornaments/readOrnaments'
import { heldByPedal, type PedalSpan, writtenPedal } from './pedal'
import { closedHiHat, isHiHat, openHiHat } from './percussion'
import { handsAndFeet, strokeLengths } from './percussionVoices'
import { type WrittenNote, writeRhythm } from './rhythm/rhythm'
import type { Articulation, WrittenText } from './score'
import type { ScoreSettings } from './scoreSettings'
import type { PartSource, ScoreSource } from './scoreSource'
import { boundNotes, findSlurs, type LineSlur } from './slurs'
import { planStaves, type StaffPlan } from './staves'
import { type Swing, withoutSwing } from './swing'
import { heldInFull } from './tenuto'
import { type Transposition, transpositions } from './transposition'
import { type StaffVoice, staffVoices } from './voices'

/** A part whose rhythm and voices are decided, before bars, key and spelling. */
export interface DraftPart {
  readonly id: string
  readonly plan: StaffPlan
  readonly ledger: Ledger
  /** By staff, then voice. */
  readonly voices: readonly (readonly StaffVoice[])[]
  readonly written: readonly WrittenNote[]
  readonly mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>
  /** By the note they lead to, in order. */
  readonly graces: ReadonlyMap<NoteId, readonly Note[]>
  /** The same notes, each with a moment just before what it leads to, where it is named. */
  readonly graceNotes: readonly WrittenNote[]
  readonly glissandi: readonly Glissando[]
  /** Notes on the other staff than that of their line. */
  readonly reached: ReadonlySet<NoteId>
  readonly transposition: Transposition
  /** By staff. */
  readonly clefs: readonly StaffClefs[]
  readonly dynamics: Dynamics
  readonly lateMs: Milliseconds
  /** Its staves are divided where the hands are. */
  readonly doesSplitMove: boolean
  readonly tornLines: TornLines
  readonly articulations: ReadonlyMap<NoteId, readonly Articulation[]>
  readonly lyrics: ReadonlyMap<NoteId, Lyric>
  readonly unplacedSyllables: number
  readonly texts: readonly WrittenText[]
  readonly pedals: readonly PedalSpan[]
  readonly slurs: readonly LineSlur[]
  readonly beamsOverRests: boolean
  /** Names that were told by hand, on the line of fifths. */
  readonly names: ReadonlyMap<NoteId, number>
  readonly fingerings: ReadonlyMap<NoteId, string>
  readonly hiddenRests: readonly AmendmentOf<'hiddenRest'>[]
  /** Changes by hand that do not fit. */
  readonly misfits: readonly Misfit[]
  readonly endTicks: Ticks
  readonly pitchClassTicks: readonly number[]
}

/** The rhythm of a part as it was read, before anything is changed by hand. */
export interface ReadPart {
  readonly notes: readonly Note[]
  readonly plan: StaffPlan
  readonly clean: CleanNotes
  readonly ornaments: Ornamented
  /** Where its staves are divided by the hands, the staff of each note. */
  readonly hands: ReadonlyMap<NoteId, number> | null
  readonly transposition: Transposition
  readonly written: readonly WrittenNote[]
  /** The same with one head for what falls on one place. */
  readonly merged: Merged
  readonly lateMs: Milliseconds
}

/** Reads the rhythm of a part: the longest work there is, and the same whatever is changed by hand but staves. */
export function readPart(part: PartSource, source: ScoreSource, swing: Swing | null): ReadPart {
  const { instrument, controls } = part
  const { settings } = source
  const told = onToldStaves(part.notes, part.amendments)
  const notes = settings.holdsThroughPedal ? heldByPedal(told, controls.pedals) : told
  const tempoMap = new TempoMap(source.tempos)
  const transposition = canBeWritten(notes, part.transposition) ? part.transposition : unchanged
  const cleaned = cleanNotes(notes, tempoMap, cleaningOf(instrument, settings), isStruck(instrument))
  const ornaments = settings.readsOrnaments
    ? readOrnaments(
        cleaned.notes,
        instrument.kind === 'drums' ? 'percussion' : isStruck(instrument) ? 'struck' : 'held',
        tempoMap,
        settings.smallestValue,
      )
    : unornamented(cleaned.notes)
  const clean = withOrnaments(cleaned, ornaments)
  const plan = planStaves(clean.notes, instrument, settings.splitKey, part.staffSplitKey, transposition)
  const hands = plan.clefs.length > 1 && settings.followsHands ? handsOf(clean.notes, tempoMap) : null
  const rhythm = writeRhythm(
    evenNotes(clean.notes, source, swing),
    source,
    settings,
    staffChoice(plan, hands),
  )
  const played = new Map(clean.notes.map((note) => [note.id, note]))
  const written = swing
    ? rhythm.written.map((each) => ({ ...each, note: played.get(each.note.id)! }))
    : rhythm.written
  return {
    notes,
    plan,
    clean,
    ornaments,
    hands,
    transposition,
    written,
    merged: mergeCoincident(written, clean.mergedInto),
    lateMs: rhythm.lateMs,
  }
}

/** The staff of each note: as it was told, else by the hands, else by the split. */
function staffChoice(plan: StaffPlan, hands: ReadPart['hands']): (note: Note) => number {
  if (plan.clefs.length === 1) return () => 1
  const sideOf = (note: Note) =>
    hands ? hands.get(note.id)! : plan.splitKey !== null && note.key < plan.splitKey ? 2 : 1
  return (note) => note.staff ?? sideOf(note)
}

function onToldStaves(notes: readonly Note[], amendments: readonly Amendment[]): readonly Note[] {
  const told = byNote(amendments.filter(isOfNote), 'staff')
  if (told.size === 0) return notes
  return notes.map((note) => {
    const staff = told.get(note.id)?.staff
    return staff === undefined ? note : { ...note, staff }
  })
}

/** Decides voices, staves, clefs, dynamics and signs of a part that was read. */
export function draftPart(part: PartSource, source: ScoreSource, read: ReadPart): DraftPart {
  const amendments = part.amendments.filter(isOfNote)
  const times = byNote(amendments, 'time')
  const draft = draftWith(part, source, read, amendments)
  if (times.size === 0) return draft
  const { measures, voices } = draft
  const odd = unwritable(voices, measures, times)
  if (odd.size === 0) return draft
  const isOdd = (each: Amendment) => each.aspect === 'time' && odd.has(each.noteId)
  const without = draftWith(
    part,
    source,
    read,
    amendments.filter((each) => !isOdd(each)),
  )
  const why = 'no value is written there beside what stands in its bar'
  return {
    ...without,
    misfits: [
      ...without.misfits,
      ...amendments.filter(isOdd).map((amendment): Misfit => ({ amendment, why })),
    ],
  }
}

function draftWith(
  part: PartSource,
  source: ScoreSource,
  read: ReadPart,
  amendments: readonly NoteAmendment[],
): DraftPart & { readonly measures: readonly Measure[] } {
  const { instrument, controls } = part
  const { settings } = source
  const { notes, plan, clean, ornaments, hands, transposition } = read
  const isPercussion = instrument.kind === 'drums'
  const isOnTwo = plan.clefs.length > 1
  const staffOf = staffChoice(plan, hands)
  const amended = amendTimes(read.written, amendments)
  // As long as no place is changed, what was read is the same object: names need not be found again.
  const { written: merged, mergedInto } =
    amended.written === read.written && amended.tied.size === 0
      ? read.merged
      : mergeCoincident(amended.written, withTied(clean.mergedInto, amended.tied))
  const misfits: Misfit[] = [...amended.misfits]
  const written = untilSlidesEnd(merged, ornaments.glissandi)
  const graceNotes = writtenGraces(written, mergedInto, ornaments.graces)
  const staves = plan.clefs.map((_, index) => written.filter(({ note }) => staffOf(note) === index + 1))
  const times = byNote(amendments, 'time')
  const shaped = isPercussion
    ? staves.map((staff) =>
        strokeLengths(
          staff,
          source,
          settings.severalVoices,
          ({ note }) => times.has(note.id) || (ornaments.signs.get(note.id)?.includes('tremolo') ?? false),
        ).map((each) => {
          const told = times.get(each.note.id)
          return told ? { ...each, endTicks: each.onsetTicks + told.durationTicks } : each
        }),
      )
    : staves
  const voices = shaped
    .map((staff) =>
      isPercussion ? handsAndFeet(staff, settings.severalVoices) : staffVoices(staff, settings.severalVoices),
    )
    .map((lines) => amendLines(lines, amendments))
  const stands = amendments.length > 0 ? standsOf(voices, mergedInto) : noStands
  const foundDynamics = settings.readsDynamics ? findDynamics(written, controls.swell) : noDynamics
  const dynamics = amendDynamics(foundDynamics, amendments, stands, misfits)
  const found = settings.readsSlurs && !isPercussion ? findSlurs(voices) : []
  const slurs = amendSlurs(found, amendments, stands, misfits)
  const held =
    settings.readsTouch && !isPercussion ? heldInFull(written, boundNotes(voices, found)) : new Set<NoteId>()
  const staffTold = byNote(amendments, 'staff')
  const reached = isOnTwo ? reachedOver(voices, (id) => staffTold.has(id)) : new Set<NoteId>()
  /** What stands on a staff, whichever hand plays it. */
  const standing = shaped.map((staff, index) =>
    reached.size === 0
      ? staff
      : [
          ...staff.filter(({ note }) => !reached.has(note.id)),
          ...shaped[1 - index]!.filter(({ note }) => reached.has(note.id)),
        ].sort((a, b) => a.onsetTicks - b.onsetTicks || a.note.key - b.note.key),
  )
  const pitchClassTicks = new Array<number>(12).fill(0)
  let endTicks = 0
  for (const { note, onsetTicks, endTicks: end } of written) {
    if (!isPercussion) pitchClassTicks[note.key % 12]! += end - onsetTicks
    endTicks = Math.max(endTicks, end)
  }
  const measures = new MeterMap(source.meters).measuresUntil(Math.max(1, endTicks))
  const clefsTold = part.amendments.filter((each) => each.aspect === 'clef')
  return {
    id: part.id,
    measures,
    plan,
    voices,
    written,
    mergedInto,
    graces: ornaments.graces,
    graceNotes,
    glissandi: ornaments.glissandi,
    transposition,
    dynamics,
    lateMs: read.lateMs,
    doesSplitMove: hands !== null,
    tornLines: isOnTwo && !hands ? tornLines(written, staffOf) : noneTorn,
    reached,
    clefs: standing.map((staff, index) =>
      amendClefs(
        settings.readsClefs
          ? findClefs(staff, measures, clefsFor(plan.clefs[index]!, instrument, isOnTwo), {
              isShared: sharedBars(voices[index]!, measures),
              writtenAbove: transposition.semitones,
            })
          : { clef: plan.clefs[index]!, changes: [], octaveLines: [] },
        clefsTold.filter((each) => each.staff === index + 1),
        measures,
        misfits,
      ),
    ),
    articulations: amendSigns(
      articulationsOf(written, foundDynamics, settings.readsTouch, isPercussion, (id) => [
        ...(ornaments.signs.get(id) ?? []),
        ...(held.has(id) ? (['tenuto'] as const) : []),
      ]),
      amendments,
    ),
    ...(settings.writesWords ? placeLyrics(clean.notes, part.sung) : noLyrics),
    texts: settings.writesWords ? part.texts : [],
    slurs,
    beamsOverRests: settings.beamsOverRests,
    pedals: settings.readsPedal && !isPercussion ? writtenPedal(controls.pedals) : [],
    names: namesTold(part.notes, amendments, misfits),
    fingerings: new Map([...byNote(amendments, 'fingering')].map(([id, { text }]) => [id, text])),
    hiddenRests: part.amendments.filter((each) => each.aspect === 'hiddenRest'),
    misfits: [
      ...misfits,
      ...withoutHead(amendments, stands, graceNotes),
      ...onMissingStaff(part.amendments, plan),
    ],
    endTicks,
    pitchClassTicks,
    ledger: {
      captured: notes.length,
      written: written.length + graceNotes.length,
      merged: clean.merged + (read.written.length - written.length),
      coincident: coincidentNotes(written),
      filtered: clean.filtered,
    },
  }
}

const noStands: ReadonlyMap<NoteId, Stand> = new Map()

/** A note that is tied to another is written with it, and all that was written with itself. */
function withTied(
  mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>,
  tied: ReadonlyMap<NoteId, readonly NoteId[]>,
): ReadonlyMap<NoteId, readonly NoteId[]> {
  if (tied.size === 0) return mergedInto
  const all = new Map(mergedInto)
  for (const [id, ids] of tied)
    all.set(id, [
      ...(mergedInto.get(id) ?? []),
      ...ids.flatMap((each) => [each, ...(mergedInto.get(each) ?? [])]),
    ])
  return all
}

/** Names hold as long as the note is of the pitch it had when it was named. */
function namesTold(
  notes: readonly Note[],
  amendments: readonly NoteAmendment[],
  misfits: Misfit[],
): ReadonlyMap<NoteId, number> {
  const told = byNote(amendments, 'spelling')
  const names = new Map<NoteId, number>()
  if (told.size === 0) return names
  for (const { id, key } of notes) {
    const amendment = told.get(id)
    if (!amendment) continue
    if (amendment.key === key) names.set(id, amendment.fifths)
    else misfits.push({ amendment, why: 'the note has another pitch now' })
  }
  return names
}

/** What is told of notes that are in no chord of their own: left out, or in small print. */
function withoutHead(
  amendments: readonly NoteAmendment[],
  stands: ReadonlyMap<NoteId, Stand>,
  graceNotes: readonly WrittenNote[],
): Misfit[] {
  const graces = new Set(graceNotes.map(({ note }) => note.id))
  return amendments.flatMap((amendment): Misfit[] => {
    if (stands.has(amendment.noteId)) return []
    if (!graces.has(amendment.noteId))
      return [{ amendment, why: 'its note is left out by how the piece is read' }]
    return amendment.aspect === 'spelling' || amendment.aspect === 'fingering'
      ? []
      : [{ amendment, why: 'its note is in small print' }]
  })
}

function onMissingStaff(amendments: readonly Amendment[], plan: StaffPlan): Misfit[] {
  return amendments.flatMap((amendment): Misfit[] =>
    (amendment.aspect === 'staff' || amendment.aspect === 'clef') && amendment.staff > plan.clefs.length
      ? [{ amendment, why: 'the part has one staff' }]
      : [],
  )
}

function evenNotes(notes: readonly Note[], { meters }: ScoreSource, swing: Swing | null): readonly Note[] {
  return swing ? withoutSwing(notes, swing, new MeterMap(meters)) : notes
}

/** Notes that an ornament stands for are written with it. */
function withOrnaments(cleaned: CleanNotes, { notes, absorbed, graces }: Ornamented): CleanNotes {
  if (absorbed.size === 0 && graces.size === 0) return { ...cleaned, notes }
  const mergedInto = new Map(cleaned.mergedInto)
  let merged = cleaned.merged
  for (const [id, ids] of absorbed) {
    merged += ids.length
    const own = [id, ...ids].flatMap((each) => [
      ...(each === id ? [] : [each]),
      ...(cleaned.mergedInto.get(each) ?? []),
    ])
    mergedInto.set(id, own)
  }
  return { ...cleaned, notes, merged, mergedInto }
}

/** Flams are nearer together than doubles of keys may be: of percussion only what no hand can play is taken for a double. */
const mostDoubleMs: Milliseconds = 9

function cleaningOf(instrument: Instrument, settings: ScoreSettings): CleanSettings {
  const isForFlams = instrument.kind === 'drums' && settings.readsOrnaments
  return isForFlams
    ? { ...settings, chordWindowMs: Math.min(mostDoubleMs, settings.chordWindowMs) }
    : settings
}

/** A slide lasts until the note it leads to, where that is written. */
function untilSlidesEnd(
  written: readonly WrittenNote[],
  glissandi: readonly Glissando[],
): readonly WrittenNote[] {
  if (glissandi.length === 0) return written
  const targets = new Map(glissandi.map(({ from, to }) => [from, to]))
  const onsets = new Map(written.map(({ note, onsetTicks }) => [note.id, onsetTicks]))
  return written.map((each) => {
    const target = targets.get(each.note.id)
    const endTicks = target === undefined ? undefined : onsets.get(target)
    return endTicks !== undefined && endTicks > each.onsetTicks ? { ...each, endTicks } : each
  })
}

/** Grace notes have no time of the bar: one tick each, before what they lead to. */
function writtenGraces(
  written: readonly WrittenNote[],
  mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>,
  graces: Ornamented['graces'],
): WrittenNote[] {
  if (graces.size === 0) return []
  return written.flatMap(({ note: main, onsetTicks }) =>
    gracesOf(main.id, mergedInto, graces).map((note, index, own) => ({
      note,
      onsetTicks: onsetTicks - own.length + index,
      endTicks: onsetTicks - own.length + index + 1,
      isShort: false,
    })),
  )
}

/** The notes that get names, in the order in which names are given. */
export function namedNotes({ written, graceNotes }: DraftPart): readonly WrittenNote[] {
  return graceNotes.length === 0 ? written : [...written, ...graceNotes]
}

/** Those of a note, and of the notes that are written with it. */
export function gracesOf(
  id: NoteId,
  mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>,
  graces: Ornamented['graces'],
): readonly Note[] {
  return [id, ...(mergedInto.get(id) ?? [])].flatMap((each) => graces.get(each) ?? [])
}

/** Drums, and pitched instruments that are struck. */
function isStruck(instrument: Instrument): boolean {
  return instrument.kind === 'drums' || (instrument.kind === 'program' && isStruckProgram(instrument.program))
}

/** Heads, and the notes that are written with others. */
interface Merged {
  readonly written: readonly WrittenNote[]
  readonly mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>
}

/** One notehead where the same key falls twice on one place of the grid; the longer length stays. */
function mergeCoincident(
  rhythm: readonly WrittenNote[],
  earlier: ReadonlyMap<NoteId, readonly NoteId[]>,
): Merged {
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

const unchanged = transpositions['as it sounds']

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
  signsOf: (id: NoteId) => readonly Articulation[],
): Map<NoteId, readonly Articulation[]> {
  const articulations = new Map<NoteId, readonly Articulation[]>()
  let wasOpen = false
  for (const { note, isShort } of written) {
    const own: Articulation[] = []
    if (isPercussion && note.key === openHiHat) own.push('open')
    if (isPercussion && note.key === closedHiHat && wasOpen) own.push('closed')
    if (isHiHat(note.key)) wasOpen = note.key === openHiHat
    own.push(...signsOf(note.id))
    if (readsTouch && isShort && !isPercussion && own.length === 0) own.push('staccato')
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
