import type { Note, NoteId } from '../event/note'
import { soundingNotes } from './create'
import type { Project } from './schema'

/** The note with an id, wherever it is. */
export function findNote(
  project: Project,
  noteId: NoteId,
): { note: Note; trackId: string; trackName: string } | undefined {
  for (const track of project.tracks) {
    const note = byId(soundingNotes(track)).get(noteId)
    if (note) return { note, trackId: track.id, trackName: track.name }
  }
  return undefined
}

const indexes = new WeakMap<readonly Note[], ReadonlyMap<NoteId, Note>>()

/** Notes by their ids; made once for each list. */
export function byId(notes: readonly Note[]): ReadonlyMap<NoteId, Note> {
  let index = indexes.get(notes)
  if (!index) {
    index = new Map(notes.map((note) => [note.id, note]))
    indexes.set(notes, index)
  }
  return index
}
