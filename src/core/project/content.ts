import { z } from '../border/checks'
import type { ControllerEvent, Note } from '../event/note'
import { type NoteColumns, packNotes, unpackNotes } from '../event/noteColumns'
import { type Manuscript, manuscriptSchema } from '../notation/manuscript/manuscript'
import { lastTick } from '../time/units'
import { ProjectFormatError, type ReadHead } from './migrate'
import { noteProblem } from './notesFit'
import type { AsidePart } from './salvage'
import type { Clip, Project, ProjectHead, Track } from './schema'

/** The inside of a clip, stored apart from the project's head so that an edit writes one clip only. */
export interface ClipContent {
  readonly notes: NoteColumns
  readonly controllers: readonly ControllerEvent[]
  readonly manuscript?: Manuscript
}

/** The inside of a clip as it is in the project. */
export type ClipInside = Pick<Clip, 'notes' | 'controllers' | 'manuscript'>

const controllersSchema = z.array(
  z.object({
    tick: z.number().int().min(0).max(lastTick),
    channel: z.number().int().min(1).max(16),
    kind: z.enum(['controller', 'bend', 'channelPressure', 'keyPressure', 'program']),
    number: z.number().int().min(0).max(127),
    value: z.number().int().min(0).max(16_383),
  }),
)

export function contentOf(clip: Clip): ClipContent {
  const { notes, controllers, manuscript } = clip
  return { notes: packNotes(notes), controllers, ...(manuscript && { manuscript }) }
}

/**
 * Checks what comes from storage or a file.
 *
 * @throws ProjectFormatError that names the clip
 */
export function readClipContent(
  name: string,
  stored: { notes: NoteColumns; controllers: unknown; manuscript?: unknown },
): ClipInside {
  const { count, times, bytes, origins, lines } = stored.notes
  const lengthsAgree =
    times?.length === count * 3 &&
    bytes?.length === count * 4 &&
    origins?.length === count * 3 &&
    (lines === undefined || lines.length === count)
  if (!lengthsAgree) throw new ProjectFormatError(`The clip "${name}" is damaged: its notes are not whole`)
  let notes: Note[]
  try {
    notes = unpackNotes(stored.notes)
  } catch (error) {
    throw new ProjectFormatError(`The clip "${name}" is damaged: ${(error as Error).message}`)
  }
  for (const note of notes) {
    const problem = noteProblem(note)
    if (problem) throw new ProjectFormatError(`The clip "${name}" is damaged at note ${note.id}: ${problem}`)
  }
  const controllers = controllersSchema.safeParse(stored.controllers)
  if (!controllers.success)
    throw new ProjectFormatError(`The clip "${name}" is damaged: its controllers cannot be read`)
  if (stored.manuscript === undefined) return { notes, controllers: controllers.data }
  const manuscript = manuscriptSchema.safeParse(stored.manuscript)
  if (!manuscript.success)
    throw new ProjectFormatError(
      `The clip "${name}" is damaged: how it is written cannot be read (${manuscript.error.issues[0]!.path.join('.')})`,
    )
  return { notes, controllers: controllers.data, manuscript: manuscript.data }
}

/** A track without the insides of its clips. */
export function headOfTrack(track: Track): ProjectHead['tracks'][number] {
  return {
    ...track,
    effects: [...track.effects],
    effectChanges: track.effectChanges.map(({ tick, slots }) => ({ tick, slots: [...slots] })),
    clips: track.clips.map(
      ({ notes: _notes, controllers: _controllers, manuscript: _manuscript, ...head }) => head,
    ),
  }
}

/** A project without the insides of its clips. */
export function headOf(project: Project): ProjectHead {
  return {
    ...project,
    tracks: project.tracks.map(headOfTrack),
  }
}

/** A project as it was read, with what was damaged and is kept aside. */
export interface ReadProject {
  readonly project: Project
  readonly aside: readonly AsidePart[]
}

/**
 * Puts the insides of clips back into a project. A clip whose inside is missing or damaged is left out and kept aside.
 *
 * @param contentFor throws ProjectFormatError where it cannot be read
 */
export function joinProject(
  { head, aside }: ReadHead,
  contentFor: (clipId: string, name: string) => ClipInside,
): ReadProject {
  const leftOut: AsidePart[] = []
  const tracks = head.tracks.map((track, index) => ({
    ...track,
    clips: track.clips.flatMap((clip): Clip[] => {
      try {
        return [{ ...clip, ...contentFor(clip.id, clip.name) }]
      } catch (error) {
        if (!(error instanceof ProjectFormatError)) throw error
        leftOut.push({ path: `tracks.${index}.clips.${clip.id}`, reason: error.message, value: clip })
        return []
      }
    }),
  }))
  const project = { ...head, tracks }
  const isSerialLost = aside.some(({ path }) => path === 'nextSerial')
  return {
    project: isSerialLost ? { ...project, nextSerial: serialAbove(project) } : project,
    aside: [...aside, ...leftOut],
  }
}

/** A number that nothing in a project has yet. */
function serialAbove({ tracks, takes }: Pick<Project, 'tracks' | 'takes'>): number {
  let highest = 0
  const see = (serial: number) => {
    if (serial > highest) highest = serial
  }
  for (const take of takes) see(take.serial)
  for (const track of tracks) {
    see(Number(/\d+$/.exec(track.id)?.[0] ?? 0))
    for (const clip of track.clips) {
      see(Number(/\d+$/.exec(clip.id)?.[0] ?? 0))
      for (const note of clip.notes) see(note.id)
    }
  }
  return highest + 1
}
