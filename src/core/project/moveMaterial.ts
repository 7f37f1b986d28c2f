import { type CopiedNotes, copyNotes, pastedNotes } from '../editing/clipboard'
import { inOrder } from '../editing/operation'
import type { NoteId } from '../event/note'
import { nameWith } from '../text/bounded'
import type { Ticks } from '../time/units'
import { newClip, newTrack, notesAsPlayed, soundingControllers } from './create'
import { type Chosen, chosenByTrack, rangeOf, withEdited } from './editNotes'
import type { Project, Track } from './schema'
import { moveWords } from './words'

/** The chosen notes as text for the clipboard; null where none is chosen. */
export function copyChosen(project: Project, chosen: Chosen): { text: string; count: number } | null {
  if (chosen.noteIds.size === 0) return null
  const byTrack = chosenByTrack(project, chosen)
  const range = rangeOf(byTrack)
  if (!range) return null
  let count = 0
  const tracks = [...byTrack].map(([track, ids]) => {
    const notes = notesAsPlayed(track).filter(({ id }) => ids.has(id))
    count += notes.length
    return { name: track.name, notes }
  })
  return { text: copyNotes(tracks, range), count }
}

export interface PasteResult {
  readonly project: Project
  readonly noteIds: ReadonlySet<NoteId>
  readonly trackNames: readonly string[]
}

/**
 * Pastes notes at a place: what came from one track onto the given one, what came from several onto it and those below; where there
 * are too few, new tracks are made.
 */
export function paste(project: Project, trackId: string, atTicks: Ticks, copied: CopiedNotes): PasteResult {
  const firstIndex = Math.max(
    0,
    project.tracks.findIndex(({ id }) => id === trackId),
  )
  const noteIds = new Set<NoteId>()
  const trackNames: string[] = []
  let next = project
  for (const [index, part] of copied.tracks.entries()) {
    let target = next.tracks[firstIndex + index]
    if (!target) {
      const made = newTrack(next, {
        name: part.name || 'Pasted',
        instrument: { kind: 'program', program: 0 },
        isArmed: false,
      })
      next = made.project
      target = made.track
    }
    let serial = next.nextSerial
    const clipId = `clip-${serial++}`
    const pasted = pastedNotes(part, Math.round(atTicks), target.channel, () => serial++)
    for (const { id } of pasted) noteIds.add(id)
    trackNames.push(target.name)
    const id = target.id
    next = {
      ...next,
      nextSerial: serial,
      tracks: next.tracks.map((track) => (track.id === id ? withPasted(track, pasted, clipId) : track)),
    }
  }
  return { project: next, noteIds, trackNames }
}

function withPasted(track: Track, pasted: ReturnType<typeof pastedNotes>, clipId: string): Track {
  if (!track.clips.some(({ isSounding }) => isSounding))
    return { ...track, clips: [...track.clips, newClip(clipId, 'Pasted', pasted)] }
  const before = notesAsPlayed(track)
  return withEdited(track, before, { notes: inOrder([...before, ...pasted]) })
}

/**
 * Splits a track at a place: what begins there or later is on a new track right below, with every setting. A note that sounds over
 * the place stays whole.
 */
export function splitTrack(
  project: Project,
  trackId: string,
  atTicks: Ticks,
): { readonly project: Project; readonly newTrackId: string | null; readonly carried: number } {
  const track = project.tracks.find(({ id }) => id === trackId)
  if (!track) return { project, newTrackId: null, carried: 0 }
  const notes = notesAsPlayed(track)
  const later = notes.filter(({ onsetTicks }) => onsetTicks >= atTicks)
  if (later.length === 0 || later.length === notes.length) return { project, newTrackId: null, carried: 0 }
  const curves = soundingControllers(track)
  const { id: _id, clips: _clips, thread: _thread, routes: _routes, ...settings } = track
  const made = newTrack(
    { ...project, nextSerial: project.nextSerial + 1 },
    {
      ...settings,
      name: nameWith(track.name, ', second half'),
      isArmed: false,
      madeFrom: null,
      clips: [newClip(`clip-${project.nextSerial}`, 'Split', later, { controllers: curves })],
    },
  )
  const carriedIds = new Set(later.map(({ id }) => id))
  const before: Track = {
    ...track,
    clips: track.clips.map((clip) =>
      clip.isSounding ? { ...clip, notes: clip.notes.filter(({ id }) => !carriedIds.has(id)) } : clip,
    ),
  }
  const tracks = made.project.tracks
    .filter(({ id }) => id !== made.track.id)
    .flatMap((each) => (each.id === trackId ? [before, made.track] : [each]))
  const split = moveWords({ ...made.project, tracks }, trackId, made.track.id, atTicks)
  return { project: split, newTrackId: made.track.id, carried: later.length }
}
