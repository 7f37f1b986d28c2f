import type { NoteId } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { ledgerLines } from './clefs'
import type { StaffVoice, VoiceChord } from './voices'

/** Further from its own staff than this a hand has reached over, */
const mostLedgerLines = 3
/** if the other staff has the notes nearer than this. */
const mostLinesThere = 1
/** For longer it changes its clef instead. */
const longestTicks: Ticks = 4 * TICKS_PER_QUARTER

const clefs = ['treble', 'bass'] as const

/**
 * Notes that a hand plays for a moment where the other one is at home: they stay in their line, on the other staff. (Common practice, no
 * source.)
 *
 * @param staves the lines of the upper and the lower staff
 * @param isTold somebody put the note on its staff: there it stays
 */
export function reachedOver(
  staves: readonly (readonly StaffVoice[])[],
  isTold: (id: NoteId) => boolean = () => false,
): ReadonlySet<NoteId> {
  const reached = new Set<NoteId>()
  if (staves.length !== 2) return reached
  for (const [staffIndex, lines] of staves.entries())
    for (const { chords } of lines)
      for (let first = 0; first < chords.length; first++) {
        let last = first
        while (last < chords.length && isOver(chords[last]!, staffIndex, isTold)) last++
        if (last === first) continue
        const run = chords.slice(first, last)
        const isAllOfIt = run.length === chords.length
        if (!isAllOfIt && run.at(-1)!.endTicks - run[0]!.onsetTicks <= longestTicks)
          for (const { notes } of run) for (const { note } of notes) reached.add(note.id)
        first = last
      }
  return reached
}

function isOver({ notes }: VoiceChord, staffIndex: number, isTold: (id: NoteId) => boolean): boolean {
  const [own, other] = staffIndex === 0 ? clefs : [clefs[1], clefs[0]]
  return notes.every(
    ({ note: { id, key } }) =>
      !isTold(id) && ledgerLines(key, own) > mostLedgerLines && ledgerLines(key, other) <= mostLinesThere,
  )
}
