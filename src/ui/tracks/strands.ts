import type { Note, NoteId } from '@/core/event/note'
import { type Thread, threadOf } from '../theme/threads'
import type { NoteShapes } from './noteShapes'

/** The lines that notes of a track are joined to, each drawn in its own way. */
export interface Strands {
  readonly count: number
  /** The strand of a note, by the note's index; −1 for a note of none. */
  of(index: number): number
  /** Where notes sound together, the line follows the highest of them; otherwise the lowest. */
  isUpper(strand: number): boolean
  threadOf(strand: number): Thread
  /** Divided at one key all through, so that a line can be drawn there. */
  readonly isSplitAtKey: boolean
  /** What stands in a note besides its colour; null for nothing. */
  markOf(strand: number): string | null
}

/**
 * One thread; two for two hands, on both sides of a split, or as notes were told their staff.
 *
 * @param staffOf the staff a note was told, by index; undefined where it was not
 */
export function handStrands(
  shapes: NoteShapes,
  thread: Thread,
  splitKey: number | null,
  staffOf: ((index: number) => 1 | 2 | undefined) | null = null,
): Strands {
  return {
    count: splitKey === null ? 1 : 2,
    of: (index) => {
      const staff = staffOf?.(index)
      if (staff !== undefined) return staff - 1
      return splitKey === null || shapes.keys[index]! >= splitKey ? 0 : 1
    },
    isSplitAtKey: splitKey !== null && staffOf === null,
    isUpper: (strand) => strand === 0,
    threadOf: () => thread,
    markOf: () => null,
  }
}

/** A thread for each line of a track: the first has the track's own colour. */
export function lineThread(trackThread: number, line: number): Thread {
  return threadOf(trackThread + line)
}

const nobody = 255

/**
 * A thread for each line that notes belong to.
 *
 * @param lineOf the line of a note, from 0; undefined for none
 */
export function lineStrands(
  notes: readonly Note[],
  trackThread: number,
  lineOf: (note: Note) => number | undefined,
): Strands {
  const lines = new Uint8Array(notes.length)
  let count = 0
  for (let index = 0; index < notes.length; index++) {
    const line = lineOf(notes[index]!)
    lines[index] = line ?? nobody
    if (line !== undefined && line >= count) count = line + 1
  }
  return {
    count,
    of: (index) => (lines[index] === nobody ? -1 : lines[index]!),
    isSplitAtKey: false,
    isUpper: (strand) => strand < count / 2,
    threadOf: (strand) => lineThread(trackThread, Math.max(0, strand)),
    markOf: (strand) => (strand < 0 ? null : String(strand + 1)),
  }
}

/** How the notes of a track are told apart on the screen, before it is done. */
export interface Partition {
  readonly trackId: string
  /** The part of each note, from 0. */
  readonly partOf: ReadonlyMap<NoteId, number>
}
