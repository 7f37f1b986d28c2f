import type { NoteId } from '../../event/note'
import type { Ticks } from '../../time/units'
import type { Dynamics } from '../dynamics'
import type { Articulation } from '../score'
import type { LineSlur } from '../slurs'
import type { StaffVoice } from '../voices'
import { byNote, type Misfit, type NoteAmendment } from './amendment'

/** Where a note is written: its line, and from when to when. */
export interface Stand {
  /** From 0. */
  readonly staffIndex: number
  readonly lineIndex: number
  readonly onsetTicks: Ticks
  readonly endTicks: Ticks
}

/** The place of each note that stands at a head, and of those that are written with it. */
export function standsOf(
  staves: readonly (readonly StaffVoice[])[],
  mergedInto: ReadonlyMap<NoteId, readonly NoteId[]>,
): ReadonlyMap<NoteId, Stand> {
  const stands = new Map<NoteId, Stand>()
  for (const [staffIndex, lines] of staves.entries())
    for (const [lineIndex, { chords }] of lines.entries())
      for (const { notes, onsetTicks, endTicks } of chords)
        for (const { note } of notes) {
          const stand = { staffIndex, lineIndex, onsetTicks, endTicks }
          for (const id of [note.id, ...(mergedInto.get(note.id) ?? [])]) stands.set(id, stand)
        }
  return stands
}

/** Signs of notes, with those that were put to them by hand and without those that were taken away. */
export function amendSigns(
  found: ReadonlyMap<NoteId, readonly Articulation[]>,
  amendments: readonly NoteAmendment[],
): ReadonlyMap<NoteId, readonly Articulation[]> {
  const signs = amendments.filter((each) => each.aspect === 'sign')
  if (signs.length === 0) return found
  const amended = new Map(found)
  for (const { noteId, sign, isOn } of signs) {
    const others = (amended.get(noteId) ?? []).filter((each) => each !== sign)
    amended.set(noteId, isOn ? [...others, sign] : others)
  }
  return amended
}

/** Levels and hairpins of a part as they were told by hand over those that were found. */
export function amendDynamics(
  found: Dynamics,
  amendments: readonly NoteAmendment[],
  stands: ReadonlyMap<NoteId, Stand>,
  misfits: Misfit[],
): Dynamics {
  const levels = [...byNote(amendments, 'level').values()]
  const pins = [...byNote(amendments, 'hairpin').values()]
  if (levels.length === 0 && pins.length === 0) return found
  const amended = { levels: [...found.levels], hairpins: [...found.hairpins] }
  for (const { noteId, mark } of levels) {
    const stand = stands.get(noteId)
    if (!stand) continue
    amended.levels = amended.levels.filter(({ tick }) => tick !== stand.onsetTicks)
    if (mark !== null) amended.levels.push({ tick: stand.onsetTicks, mark })
  }
  for (const amendment of pins) {
    const start = stands.get(amendment.noteId)
    if (!start) continue
    const end = amendment.to === null ? start : stands.get(amendment.to.noteId)
    if (!end || end.endTicks <= start.onsetTicks) {
      misfits.push({
        amendment,
        why: end ? 'its end lies before its beginning' : 'the note it leads to is not on the page',
      })
      continue
    }
    // Two at one place cannot be told apart: the one by hand holds.
    amended.hairpins = amended.hairpins.filter(
      ({ startTicks, endTicks }) => endTicks <= start.onsetTicks || startTicks >= end.endTicks,
    )
    if (amendment.to !== null)
      amended.hairpins.push({ startTicks: start.onsetTicks, endTicks: end.endTicks, kind: amendment.to.kind })
  }
  return {
    ...found,
    levels: amended.levels.sort((a, b) => a.tick - b.tick),
    hairpins: amended.hairpins.sort((a, b) => a.startTicks - b.startTicks),
  }
}

/** Slurs of a part as they were told by hand over those that were found; slurs of one line never overlap. */
export function amendSlurs(
  found: readonly LineSlur[],
  amendments: readonly NoteAmendment[],
  stands: ReadonlyMap<NoteId, Stand>,
  misfits: Misfit[],
): readonly LineSlur[] {
  const told = [...byNote(amendments, 'slur').values()]
  if (told.length === 0) return found
  let slurs = [...found]
  for (const amendment of told) {
    const start = stands.get(amendment.noteId)
    if (!start) continue
    const end = amendment.toNoteId === null ? start : stands.get(amendment.toNoteId)
    const problem = !end
      ? 'the note it leads to is not on the page'
      : end.staffIndex !== start.staffIndex || end.lineIndex !== start.lineIndex
        ? 'its two ends are in different voices'
        : amendment.toNoteId !== null && end.onsetTicks <= start.onsetTicks
          ? 'its end lies before its beginning'
          : null
    if (!end || problem !== null) {
      misfits.push({ amendment, why: problem ?? '' })
      continue
    }
    const { staffIndex, lineIndex } = start
    slurs = slurs.filter(
      (slur) =>
        slur.staffIndex !== staffIndex ||
        slur.lineIndex !== lineIndex ||
        slur.endTicks <= start.onsetTicks ||
        slur.startTicks >= end.onsetTicks + (amendment.toNoteId === null ? 1 : 0),
    )
    if (amendment.toNoteId !== null)
      slurs.push({ staffIndex, lineIndex, startTicks: start.onsetTicks, endTicks: end.onsetTicks })
  }
  return slurs.sort(
    (a, b) => a.staffIndex - b.staffIndex || a.lineIndex - b.lineIndex || a.startTicks - b.startTicks,
  )
}
