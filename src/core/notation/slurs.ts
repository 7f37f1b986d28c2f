import { type NoteId, noteEndTicks } from '../event/note'
import type { Ticks } from '../time/units'
import type { StaffVoice, VoiceChord } from './voices'

/** A slur of one line of a staff, from the onset of its first chord to that of its last. */
export interface LineSlur {
  /** From 0. */
  readonly staffIndex: number
  readonly lineIndex: number
  readonly startTicks: Ticks
  readonly endTicks: Ticks
}

/** Two notes are a step, three are a group. */
const fewestChords = 3
/** Where nearly every step is bound, that is how the player plays, and nothing to be written. */
const mostBound = 0.85

/**
 * Slurs over what was played legato: each note held into the next, in a part where that is not so throughout.
 *
 * Common practice, no source.
 *
 * @param staves lines by staff
 */
export function findSlurs(staves: readonly (readonly StaffVoice[])[]): LineSlur[] {
  let [steps, bound] = [0, 0]
  const slurs: LineSlur[] = []
  for (const [staffIndex, lines] of staves.entries())
    for (const [lineIndex, { chords }] of lines.entries()) {
      let first = 0
      for (let index = 1; index <= chords.length; index++) {
        const [from, to] = [chords[index - 1]!, chords[index]]
        if (to && from.endTicks >= to.onsetTicks) steps++
        if (to && isBound(from, to)) {
          bound++
          continue
        }
        if (index - first >= fewestChords)
          slurs.push({
            staffIndex,
            lineIndex,
            startTicks: chords[first]!.onsetTicks,
            endTicks: from.onsetTicks,
          })
        first = index
      }
    }
  return bound > mostBound * steps ? [] : slurs
}

/** Whether a chord is held until the next one sounds; a key that is struck again is not. */
function isBound(from: VoiceChord, to: VoiceChord): boolean {
  if (from.endTicks < to.onsetTicks) return false
  const nextTicks = Math.min(...to.notes.map(({ note }) => note.onsetTicks))
  return (
    from.notes.some(({ note }) => noteEndTicks(note) >= nextTicks) &&
    !from.notes.some(({ note }) => to.notes.some((next) => next.note.key === note.key))
  )
}

/** Whether a note is under a slur. */
export function boundNotes(
  staves: readonly (readonly StaffVoice[])[],
  slurs: readonly LineSlur[],
): (id: NoteId) => boolean {
  const bound = new Set<NoteId>()
  for (const { staffIndex, lineIndex, startTicks, endTicks } of slurs)
    for (const { onsetTicks, notes } of staves[staffIndex]![lineIndex]!.chords)
      if (onsetTicks >= startTicks && onsetTicks <= endTicks) for (const { note } of notes) bound.add(note.id)
  return (id) => bound.has(id)
}
