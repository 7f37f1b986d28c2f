import { keyName, type Note } from '@/core/event/note'
import { contextOf } from '@/core/project/context'
import { findNote } from '@/core/project/findNote'
import type { Project } from '@/core/project/schema'

/** Where a note came from, in words. */
export function originWords(note: Note, project: Project): string {
  const { origin } = note
  switch (origin.kind) {
    case 'played': {
      const take = project.takes.find((candidate) => candidate.serial === origin.takeSerial)
      return `played, ${take?.name ?? 'an earlier take'}`
    }
    case 'printed':
    case 'carried': {
      const made = origin.kind === 'printed' ? 'printed' : 'carried over'
      const source = findNote(project, origin.fromNoteId)
      if (!source) return `${made} from a note that is gone`
      const { bar, beat } = contextOf(project).meterMap.position(source.note.onsetTicks)
      return `${made} from ${keyName(source.note.key)}, bar ${bar} beat ${beat}, ${source.trackName}`
    }
    case 'imported':
      return 'from the file'
    case 'drawn':
      return 'drawn'
    case 'generated':
      return 'generated'
  }
}
