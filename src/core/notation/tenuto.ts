import { type NoteId, noteEndTicks } from '../event/note'
import { TICKS_PER_QUARTER } from '../time/units'
import type { WrittenNote } from './rhythm/rhythm'

/** Who holds notes for less than this share of their value as a rule is heard to hold one in full. */
const detachedBelow = 0.86
const heldFrom = 0.97
/** Shorter notes are held as they come. */
const shortestTicks = TICKS_PER_QUARTER / 2
/** Where more than this share of notes is held in full, that is how the player plays. */
const mostHeld = 0.2
const fewestNotes = 12

/**
 * Notes that were held for all of their value by a player who detaches the others. (Common practice, no source.)
 *
 * @param isInSlur notes that are bound are held anyway
 */
export function heldInFull(
  written: readonly WrittenNote[],
  isInSlur: (id: NoteId) => boolean,
): ReadonlySet<NoteId> {
  if (written.length < fewestNotes) return new Set()
  const shares = written.map(
    ({ note, onsetTicks, endTicks }) => (noteEndTicks(note) - note.onsetTicks) / (endTicks - onsetTicks),
  )
  const usual = [...shares].sort((a, b) => a - b)[shares.length >> 1]!
  if (usual >= detachedBelow) return new Set()
  const held = written.filter(
    ({ note, isShort, onsetTicks, endTicks }, index) =>
      !isShort && shares[index]! >= heldFrom && endTicks - onsetTicks >= shortestTicks && !isInSlur(note.id),
  )
  return held.length > mostHeld * written.length ? new Set() : new Set(held.map(({ note }) => note.id))
}
