import { z } from 'zod'
import type { ControllerEvent } from '../event/note'
import { type NoteColumns, packNotes, unpackNotes } from '../event/noteColumns'
import { ProjectFormatError } from './migrate'
import type { Clip, Project, ProjectHead } from './schema'

/** The inside of a clip, stored apart from the project's head so that an edit writes one clip only. */
export interface ClipContent {
  readonly notes: NoteColumns
  readonly controllers: readonly ControllerEvent[]
}

const controllersSchema = z.array(
  z.object({
    tick: z.number().int().min(0),
    channel: z.number().int().min(1).max(16),
    kind: z.enum(['controller', 'bend', 'channelPressure', 'keyPressure', 'program']),
    number: z.number().int().min(0).max(127),
    value: z.number().int().min(0).max(16_383),
  }),
)

export function contentOf(clip: Clip): ClipContent {
  return { notes: packNotes(clip.notes), controllers: clip.controllers }
}

/**
 * Checks what comes from storage or a file.
 *
 * @throws ProjectFormatError that names the clip
 */
export function readClipContent(
  name: string,
  stored: { notes: NoteColumns; controllers: unknown },
): Pick<Clip, 'notes' | 'controllers'> {
  const { count, times, bytes, origins } = stored.notes
  const lengthsAgree =
    times?.length === count * 3 && bytes?.length === count * 4 && origins?.length === count * 3
  if (!lengthsAgree) throw new ProjectFormatError(`The clip "${name}" is damaged: its notes are not whole`)
  const notes = unpackNotes(stored.notes)
  for (const note of notes) {
    const isSound =
      note.onsetTicks >= 0 &&
      note.durationTicks > 0 &&
      note.key <= 127 &&
      note.velocity <= 127 &&
      note.channel >= 1 &&
      note.channel <= 16
    if (!isSound)
      throw new ProjectFormatError(`The clip "${name}" is damaged: note ${note.id} is out of range`)
  }
  const controllers = controllersSchema.safeParse(stored.controllers)
  if (!controllers.success)
    throw new ProjectFormatError(`The clip "${name}" is damaged: its controllers cannot be read`)
  return { notes, controllers: controllers.data }
}

/** A project without the insides of its clips. */
export function headOf(project: Project): ProjectHead {
  return {
    ...project,
    tracks: project.tracks.map((track) => ({
      ...track,
      effects: [...track.effects],
      effectChanges: track.effectChanges.map(({ tick, slots }) => ({ tick, slots: [...slots] })),
      clips: track.clips.map(({ notes: _notes, controllers: _controllers, ...head }) => head),
    })),
  }
}

/** Puts the insides of clips back into a project. */
export function joinProject(
  head: ProjectHead,
  contentFor: (clipId: string, name: string) => Pick<Clip, 'notes' | 'controllers'>,
): Project {
  return {
    ...head,
    tracks: head.tracks.map((track) => ({
      ...track,
      clips: track.clips.map((clip) => ({ ...clip, ...contentFor(clip.id, clip.name) })),
    })),
  }
}
