import { keyName, type Note } from '@/core/event/note'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import type { Project } from '@/core/project/schema'

/** Where a note came from, in words. */
export function originWords(note: Note, project: Project): string {
  const { origin } = note
  switch (origin.kind) {
    case 'played': {
      const take = project.takes.find((candidate) => candidate.serial === origin.takeSerial)
      return `played, ${take?.name ?? 'an earlier take'}`
    }
    case 'printed': {
      const source = findNote(project, origin.fromNoteId)
      if (!source) return 'printed from a note that is gone'
      const { bar, beat } = contextOf(project).meterMap.position(source.note.onsetTicks)
      return `printed from ${keyName(source.note.key)}, bar ${bar} beat ${beat}, ${source.trackName}`
    }
    case 'imported':
      return 'from the file'
    case 'drawn':
      return 'drawn'
    case 'generated':
      return 'generated'
  }
}

/** The note with an id, wherever it is. */
export function findNote(
  project: Project,
  noteId: number,
): { note: Note; trackId: string; trackName: string } | undefined {
  for (const track of project.tracks) {
    const note = soundingNotes(track).find((candidate) => candidate.id === noteId)
    if (note) return { note, trackId: track.id, trackName: track.name }
  }
  return undefined
}
