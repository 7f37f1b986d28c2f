import type { Note } from '../event/note'
import { TICKS_PER_QUARTER } from '../time/units'
import { emptyProject, newClip, newTrack } from './create'
import type { Project, Track } from './schema'

/** A note for tests: a quarter at `beat` (from 0), unless it says otherwise. */
export function noteAt(id: number, beat: number, key: number, fields: Partial<Note> = {}): Note {
  return {
    id,
    onsetTicks: beat * TICKS_PER_QUARTER,
    durationTicks: TICKS_PER_QUARTER - 500,
    key,
    velocity: 80,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'drawn' },
    ...fields,
  }
}

/** A piece with a piano track for each list of notes; ids below 1,000 are free for the notes. */
export function pieceWith(...lists: readonly (readonly Note[])[]): Project {
  return lists.reduce<Project>(
    (project, notes, index) =>
      newTrack(project, {
        name: `Track ${index + 1}`,
        instrument: { kind: 'program', program: 0 },
        clips: [newClip(`clip-${index}`, 'Drawn', notes)],
      }).project,
    { ...emptyProject('piece', 'Piece', 0), nextSerial: 1000 },
  )
}

export function trackNamed(project: Project, name: string): Track {
  return project.tracks.find((track) => track.name === name)!
}
