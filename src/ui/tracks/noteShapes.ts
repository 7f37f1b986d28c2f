import type { Note } from '@/core/event/note'
import { firstIndex } from '@/core/time/firstIndex'

/** Notes as flat numbers, for drawing: made once for each list of notes. */
export interface NoteShapes {
  readonly count: number
  readonly onsets: Float64Array
  readonly ends: Float64Array
  readonly keys: Uint8Array
  readonly velocities: Uint8Array
  readonly lowestKey: number
  readonly highestKey: number
  /** Longest note: how far before the visible stretch one may begin that reaches into it. */
  readonly longestTicks: number
}

const shapes = new WeakMap<readonly Note[], NoteShapes>()

export function shapesOf(notes: readonly Note[]): NoteShapes {
  const known = shapes.get(notes)
  if (known) return known
  const count = notes.length
  const made = {
    count,
    onsets: new Float64Array(count),
    ends: new Float64Array(count),
    keys: new Uint8Array(count),
    velocities: new Uint8Array(count),
    lowestKey: 127,
    highestKey: 0,
    longestTicks: 0,
  }
  for (let i = 0; i < count; i++) {
    const note = notes[i]!
    made.onsets[i] = note.onsetTicks
    made.ends[i] = note.onsetTicks + note.durationTicks
    made.keys[i] = note.key
    made.velocities[i] = note.velocity
    if (note.key < made.lowestKey) made.lowestKey = note.key
    if (note.key > made.highestKey) made.highestKey = note.key
    if (note.durationTicks > made.longestTicks) made.longestTicks = note.durationTicks
  }
  shapes.set(notes, made)
  return made
}

/** Index of the first note at or after a tick. */
export function firstFrom(noteShapes: NoteShapes, tick: number): number {
  return firstIndex(noteShapes.count, (index) => noteShapes.onsets[index]! >= tick)
}
