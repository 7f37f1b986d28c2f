import { byOnset, type Note, type NoteId } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'

/** Edits of the notes of a clip: pure, each returns a new list in order of onset. */

/** @param together all notes that move; notes of other tracks may be among them */
export function moveNotes(
  notes: readonly Note[],
  ids: ReadonlySet<NoteId>,
  byTicks: Ticks,
  byKeys: number,
  together: readonly Note[] = notes.filter((note) => ids.has(note.id)),
): Note[] {
  // The selection moves as a whole: it stops where its first, lowest or highest note meets the edge.
  const firstOnset = together.reduce(
    (first, note) => Math.min(first, note.onsetTicks),
    Number.POSITIVE_INFINITY,
  )
  const ticks = Math.max(byTicks, -firstOnset)
  const lowest = together.reduce((low, note) => Math.min(low, note.key), 127)
  const highest = together.reduce((high, note) => Math.max(high, note.key), 0)
  const keys = Math.max(-lowest, Math.min(127 - highest, byKeys))
  return notes
    .map((note) =>
      ids.has(note.id) ? { ...note, onsetTicks: note.onsetTicks + ticks, key: note.key + keys } : note,
    )
    .sort(byOnset)
}

/** Moves strokes of a kit: its rows are instruments, so that a step up is another key for each. */
export function moveStrokes(
  notes: readonly Note[],
  ids: ReadonlySet<NoteId>,
  byTicks: Ticks,
  toKey: (key: number) => number,
  together?: readonly Note[],
): Note[] {
  return moveNotes(notes, ids, byTicks, 0, together)
    .map((note) => (ids.has(note.id) ? { ...note, key: toKey(note.key) } : note))
    .sort(byOnset)
}

/** Changes where notes end; none gets shorter than `leastTicks`. */
export function stretchNotes(
  notes: readonly Note[],
  ids: ReadonlySet<NoteId>,
  byTicks: Ticks,
  leastTicks: Ticks = 120,
): Note[] {
  return notes.map((note) =>
    ids.has(note.id) ? { ...note, durationTicks: Math.max(leastTicks, note.durationTicks + byTicks) } : note,
  )
}

export function deleteNotes(notes: readonly Note[], ids: ReadonlySet<NoteId>): Note[] {
  return notes.filter((note) => !ids.has(note.id))
}

/** Plays notes louder or softer by as much each; the differences between them stay, within 1 to 127. */
export function changeVelocity(notes: readonly Note[], ids: ReadonlySet<NoteId>, by: number): Note[] {
  return notes.map((note) =>
    ids.has(note.id) ? { ...note, velocity: changedVelocity(note.velocity, by) } : note,
  )
}

export function changedVelocity(velocity: number, by: number): number {
  return Math.max(1, Math.min(127, Math.round(velocity + by)))
}

/** Grids offered for drawing and moving, by name. */
export const quantiseGrids = {
  quarters: TICKS_PER_QUARTER,
  eighths: TICKS_PER_QUARTER / 2,
  sixteenths: TICKS_PER_QUARTER / 4,
  'triplet eighths': TICKS_PER_QUARTER / 3,
  'thirty-seconds': TICKS_PER_QUARTER / 8,
} as const

export type QuantiseGrid = keyof typeof quantiseGrids
