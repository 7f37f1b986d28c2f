import type { Note, NoteId } from '../event/note'
import type { Ledger } from '../ledger/ledger'
import { type Measure, MeterMap } from '../time/meterMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../time/units'
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
import { clefsFor, findClefs, type StaffClefs } from './clefs'
import { reachedOver } from './crossStaff'
import { type Dynamics, findDynamics, noDynamics } from './dynamics'
import { noneTorn, type TornLines, tornLines } from './hands'
import { type Lyric, noLyrics, placeLyrics } from './lyrics'
import { toldMarks } from './manuscript/readAsTold'
import { type ToldLayouts, toldLayouts } from './manuscript/toldLayout'
import type { Glissando, Ornamented } from './ornaments/ornamented'
import { type PedalSpan, writtenPedal } from './pedal'
import { closedHiHat, isHiHat, openHiHat } from './percussion'
import { handsAndFeet, strokeLengths } from './percussionVoices'
import { mergeCoincident, type ReadPart, staffChoice } from './readPart'
import type { WrittenNote } from './rhythm/rhythm'
import type { Articulation, WrittenText } from './score'
import type { PartSource, ScoreSource } from './scoreSource'
import { boundNotes, findSlurs, type LineSlur } from './slurs'
import type { StaffPlan } from './staves'
import { heldInFull } from './tenuto'
import type { Transposition } from './transposition'
import { type StaffVoice, staffVoices, toldVoices } from './voices'

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
  /** Bars that are divided otherwise than usual. */
  readonly layouts: ToldLayouts
  /** Changes by hand that do not fit. */
  readonly misfits: readonly Misfit[]
  readonly endTicks: Ticks
  readonly pitchClassTicks: readonly number[]
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
  const { manuscript } = part
  const isPercussion = instrument.kind === 'drums'
  /** Its strokes have no length that was played, and its lines are those of hands and feet. */
  const isReadAsStrokes = isPercussion && !manuscript
  const isOnTwo = plan.clefs.length > 1
  const staffOf = staffChoice(plan, hands)
  const amended = amendTimes(read.written, amendments, (TICKS_PER_QUARTER * 4) / settings.smallestValue)
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
  const shaped = isReadAsStrokes
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
      manuscript
        ? toldVoices(staff)
        : isPercussion
          ? handsAndFeet(staff, settings.severalVoices)
          : staffVoices(staff, settings.severalVoices),
    )
    .map((lines) => amendLines(lines, amendments))
  const stands = amendments.length > 0 || manuscript ? standsOf(voices, mergedInto) : noStands
  let endTicks = written.reduce((end, each) => Math.max(end, each.endTicks), 0)
  const meterMap = new MeterMap(source.meters)
  const marks = manuscript
    ? toldMarks(manuscript, notes, stands, meterMap.measuresUntil(Math.max(1, endTicks)))
    : null
  endTicks = Math.max(endTicks, marks?.endTicks ?? 0)
  const foundDynamics =
    marks?.dynamics ?? (settings.readsDynamics ? findDynamics(written, controls.swell) : noDynamics)
  const dynamics = amendDynamics(foundDynamics, amendments, stands, misfits)
  const found = marks?.slurs ?? (settings.readsSlurs && !isPercussion ? findSlurs(voices) : [])
  const slurs = amendSlurs(found, amendments, stands, misfits)
  const held =
    settings.readsTouch && !isPercussion && !marks
      ? heldInFull(written, boundNotes(voices, found))
      : new Set<NoteId>()
  const staffTold = byNote(amendments, 'staff')
  const reached =
    marks?.reached ?? (isOnTwo ? reachedOver(voices, (id) => staffTold.has(id)) : new Set<NoteId>())
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
  for (const { note, onsetTicks, endTicks: end } of written)
    if (!isPercussion) pitchClassTicks[note.key % 12]! += end - onsetTicks
  const measures = meterMap.measuresUntil(Math.max(1, endTicks))
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
    doesSplitMove: hands !== null || manuscript !== null,
    tornLines: isOnTwo && !hands && !manuscript ? tornLines(written, staffOf) : noneTorn,
    reached,
    clefs: standing.map((staff, index) =>
      amendClefs(
        marks
          ? marks.clefs[index]!
          : settings.readsClefs
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
      marks?.signs ??
        articulationsOf(written, foundDynamics, settings.readsTouch, isPercussion, (id) => [
          ...(ornaments.signs.get(id) ?? []),
          ...(held.has(id) ? (['tenuto'] as const) : []),
        ]),
      amendments,
    ),
    ...(settings.writesWords ? placeLyrics(withoutSmall(clean.notes, graceNotes), part.sung) : noLyrics),
    texts: settings.writesWords ? part.texts : [],
    slurs,
    beamsOverRests: settings.beamsOverRests,
    pedals: marks?.pedals ?? (settings.readsPedal && !isPercussion ? writtenPedal(controls.pedals) : []),
    names: new Map([...(marks?.names ?? []), ...namesTold(part.notes, amendments, misfits)]),
    fingerings: new Map([
      ...(marks?.fingerings ?? []),
      ...[...byNote(amendments, 'fingering')].map(([id, { text }]) => [id, text] as const),
    ]),
    layouts: manuscript ? toldLayouts(manuscript) : noLayouts,
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

const noLayouts: ToldLayouts = new Map()
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

/** Nothing is sung on small notes. */
function withoutSmall(
  notes: readonly Note[],
  graceNotes: readonly { readonly note: Note }[],
): readonly Note[] {
  if (graceNotes.length === 0) return notes
  const small = new Set(graceNotes.map(({ note }) => note.id))
  return notes.filter(({ id }) => !small.has(id))
}

/** Those of a note, and of the notes that are written with it. */
export function gracesOf(
  id: NoteId,
  mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>,
  graces: Ornamented['graces'],
): readonly Note[] {
  return [id, ...(mergedInto.get(id) ?? [])].flatMap((each) => graces.get(each) ?? [])
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
