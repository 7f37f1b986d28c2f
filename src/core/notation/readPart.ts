import type { Note, NoteId } from '../event/note'
import { isStruckProgram } from '../midi/generalMidi'
import type { Instrument } from '../midi/instrument'
import { MeterMap } from '../time/meterMap'
import { TempoMap } from '../time/tempoMap'
import type { Milliseconds } from '../time/units'
import { type Amendment, byNote, isOfNote } from './amendments/amendment'
import { type CleanNotes, type CleanSettings, cleanNotes } from './clean'
import { handsOf } from './hands'
import type { Manuscript } from './manuscript/manuscript'
import { readAsTold } from './manuscript/readAsTold'
import { type Ornamented, unornamented } from './ornaments/ornamented'
import { readOrnaments } from './ornaments/readOrnaments'
import { heldByPedal } from './pedal'
import { type WrittenNote, writeRhythm } from './rhythm/rhythm'
import type { ScoreSettings } from './scoreSettings'
import type { PartSource, ScoreSource } from './scoreSource'
import { planStaves, type StaffPlan } from './staves'
import { type Swing, withoutSwing } from './swing'
import { type Transposition, transpositions } from './transposition'

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
  if (part.manuscript) return readManuscript(part, part.manuscript, source, told)
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

function readManuscript(
  part: PartSource,
  manuscript: Manuscript,
  source: ScoreSource,
  notes: readonly Note[],
): ReadPart {
  const { written, ornaments, clean } = readAsTold(manuscript, source, notes)
  return {
    notes,
    plan: {
      clefs: manuscript.clefs,
      splitKey: manuscript.clefs.length > 1 ? source.settings.splitKey : null,
    },
    clean,
    ornaments,
    hands: null,
    transposition: canBeWritten(notes, part.transposition) ? part.transposition : unchanged,
    written,
    merged: { written, mergedInto: clean.mergedInto },
    lateMs: 0,
  }
}

/** The staff of each note: as it was told, else by the hands, else by the split. */
export function staffChoice(plan: StaffPlan, hands: ReadPart['hands']): (note: Note) => number {
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

/** Drums, and pitched instruments that are struck. */
function isStruck(instrument: Instrument): boolean {
  return instrument.kind === 'drums' || (instrument.kind === 'program' && isStruckProgram(instrument.program))
}

/** Heads, and the notes that are written with others. */
export interface Merged {
  readonly written: readonly WrittenNote[]
  readonly mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>
}

/** One notehead where the same key falls twice on one place of the grid; the longer length stays. */
export function mergeCoincident(
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
