import { byOnset, mostLines, type Note } from '../event/note'
import { boundedName } from '../text/bounded'
import { carriedNote, placedBelow } from './apart'
import { newClip, newTrack, notesAsPlayed, soundingControllers, soundingNotes } from './create'
import { replacedBy } from './madeFrom'
import type { Project, Track } from './schema'
import { carryWords } from './words'

/** What tells the tracks apart that were put together: each a voice, each its channel, or two hands on two staves. */
export type Joining = 'voices' | 'channels' | 'staves'

export interface TogetherResult {
  readonly project: Project
  readonly trackId: string | null
  readonly notes: number
  /** Notes that begin on the same place and key as one of another track; each is kept. */
  readonly coincident: number
}

/**
 * Puts tracks together on one below them. Every note and curve of theirs is on it; they rest, and come back with one press.
 *
 * Voices are numbered in the order of the tracks; of two hands the higher is on the upper staff. The track sounds as the first of
 * them does, at its level.
 */
export function putTogether(project: Project, trackIds: readonly string[], joining: Joining): TogetherResult {
  const sources = project.tracks.filter(({ id }) => trackIds.includes(id))
  const first = sources[0]
  if (!first || sources.length < 2) return { project, trackId: null, notes: 0, coincident: 0 }
  const lower = joining === 'staves' ? lowest(sources) : null
  let serial = project.nextSerial
  const clipId = `clip-${serial++}`
  const places = new Set<string>()
  let coincident = 0
  const notes = sources.flatMap((source, index) => {
    const own = new Set<string>()
    const carried = heardNotes(source).map((note): Note => {
      const place = `${note.onsetTicks} ${note.key}`
      if (places.has(place)) coincident++
      own.add(place)
      const plain = carriedNote(note, serial++)
      if (joining === 'voices') return { ...plain, voice: Math.min(index + 1, mostLines) }
      if (joining === 'channels') return { ...plain, channel: source.channel }
      const { voice, isVoiceByHand } = note
      return {
        ...plain,
        staff: source === lower ? 2 : 1,
        ...(voice !== undefined && { voice }),
        ...(isVoiceByHand && { isVoiceByHand }),
      }
    })
    for (const place of own) places.add(place)
    return carried
  })
  const controllers = sources.flatMap((source) =>
    soundingControllers(source).map((event) =>
      joining === 'channels' ? { ...event, channel: source.channel } : event,
    ),
  )
  const { instrument, volume, pan, tuningCents, keyNames, writtenAs } = first
  const ids = sources.map(({ id }) => id)
  const result = newTrack(
    { ...project, tracks: replacedBy(project.tracks, ids, 'joining'), nextSerial: serial },
    {
      name: boundedName(commonName(sources)),
      instrument,
      volume,
      pan,
      tuningCents,
      keyNames,
      writtenAs,
      isArmed: false,
      channel: first.channel,
      madeFrom: { trackIds: ids, by: 'joining' },
      clips: [
        newClip(clipId, 'Put together', notes.sort(byOnset), {
          controllers: controllers.sort((a, b) => a.tick - b.tick),
        }),
      ],
    },
  )
  return {
    project: carryWords(
      { ...result.project, tracks: placedBelow(result.project.tracks, ids, [result.track]) },
      ids,
      [result.track],
    ),
    trackId: result.track.id,
    notes: notes.length,
    coincident,
  }
}

/** On their grid where a track snaps: tracks that are put together share no snapping. */
function heardNotes(track: Track): readonly Note[] {
  return track.snapping ? soundingNotes(track) : notesAsPlayed(track)
}

function lowest(tracks: readonly Track[]): Track {
  const meanKey = (track: Track) => {
    const notes = soundingNotes(track)
    return notes.reduce((sum, { key }) => sum + key, 0) / Math.max(1, notes.length)
  }
  return tracks.reduce((low, track) => (meanKey(track) < meanKey(low) ? track : low))
}

/** "Piano" of "Piano, right hand" and "Piano, left hand"; otherwise the names side by side. */
function commonName(tracks: readonly Track[]): string {
  const begins = tracks.map(({ name }) => name.split(',')[0]!.trim())
  return new Set(begins).size === 1 && begins[0] !== ''
    ? begins[0]!
    : tracks.map(({ name }) => name).join(' + ')
}
