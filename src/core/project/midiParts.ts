import type { Note } from '../event/note'
import { soundingNotes } from './create'
import { manuscriptOfTrack } from './onPage'
import type { Track } from './schema'
import { voicesOf } from './voiceEdits'

/** A track of a file: all notes of a track, or those of one of its voices. */
export interface MidiPart {
  readonly name: string
  readonly track: Track
  readonly notes: readonly Note[]
}

/** A track whose notes were told apart into voices is a track of the file for each of them; what is in none comes first. */
export function midiPartsOf(track: Track): MidiPart[] {
  const notes = soundingNotes(track)
  // A part that came as notation has the voices of its file: it is one part.
  if (manuscriptOfTrack(track)) return [{ name: track.name, track, notes }]
  const voices = voicesOf(notes)
  const others = notes.filter(({ voice }) => voice === undefined)
  if (voices.length + (others.length > 0 ? 1 : 0) < 2) return [{ name: track.name, track, notes }]
  return [
    ...(others.length > 0 ? [{ name: track.name, track, notes: others }] : []),
    ...voices.map((number) => ({
      name: `${track.name}, voice ${number}`,
      track,
      notes: notes.filter(({ voice }) => voice === number),
    })),
  ]
}
