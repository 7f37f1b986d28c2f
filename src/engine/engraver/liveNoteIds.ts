import type { NoteId } from '@/core/event/note'

/** What is being played has ids of its own, from this one up: no piece has as many notes. */
export const firstLiveNoteId: NoteId = 1_000_000_000
