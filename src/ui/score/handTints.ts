import type { NoteId } from '@/core/event/note'
import { type Amendment, isOfNote } from '@/core/notation/amendments/amendment'

/** The colour of noteheads at which something was changed by hand. */
const handColour = '#8A6500'

export function handTints(amendments: readonly Amendment[]): ReadonlyMap<NoteId, string> {
  return new Map(amendments.flatMap((each) => (isOfNote(each) ? [[each.noteId, handColour]] : [])))
}
