import type { Note } from '../event/note'
import type { Score } from '../notation/score'
import { soundOfScore } from '../notation/soundOfScore'
import { newClip } from './create'
import type { Project } from './schema'

/**
 * A piece that sounds as its page is written: the tracks on the page have the notes of their parts. Instruments, levels and effects are as
 * they are; nothing is drawn to a grid.
 */
export function asWritten(project: Project, sounds: ReadonlyMap<string, readonly Note[]>): Project {
  return {
    ...project,
    tracks: project.tracks.map((track) => {
      const notes = sounds.get(track.id)
      if (!notes) return track
      const controllers = track.clips.flatMap((clip) => (clip.isSounding ? clip.controllers : []))
      const written = notes.map((note) => ({ ...note, channel: track.channel }))
      return {
        ...track,
        snapping: null,
        clips: [newClip(`written-${track.id}`, 'As written', written, { controllers })],
      }
    }),
  }
}

export function pieceAsWritten(project: Project, score: Score): Project {
  return asWritten(project, soundOfScore(score))
}
