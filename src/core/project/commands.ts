import type { RecordedTrack } from '../capture/takeToNotes'
import { printChain } from '../effects/print'
import { byOnset, type Note } from '../event/note'
import { TempoMap } from '../time/tempoMap'
import { newClip, newTrack, soundingNotes } from './create'
import type { Clip, EffectSlot, Instrument, Project, Source, TakeInfo, Track } from './schema'

/** Changes of a project: pure functions from a project to the next. The store gives them names and undo. */

export function changeTrack(project: Project, trackId: string, change: (track: Track) => Track): Project {
  return { ...project, tracks: project.tracks.map((track) => (track.id === trackId ? change(track) : track)) }
}

export function changeNotes(
  project: Project,
  trackId: string,
  change: (notes: readonly Note[], clip: Clip) => readonly Note[],
): Project {
  return changeTrack(project, trackId, (track) => ({
    ...track,
    clips: track.clips.map((clip) => {
      if (!clip.isSounding) return clip
      const notes = change(clip.notes, clip)
      return notes === clip.notes ? clip : { ...clip, notes }
    }),
  }))
}

/** Adds a drawn note to the first sounding clip of a track; makes one where there is none. */
export function drawNote(
  project: Project,
  trackId: string,
  fields: Pick<Note, 'onsetTicks' | 'durationTicks' | 'key' | 'velocity'>,
): { project: Project; noteId: number } {
  const track = project.tracks.find((candidate) => candidate.id === trackId)
  if (!track) return { project, noteId: 0 }
  const note: Note = {
    ...fields,
    id: project.nextSerial,
    releaseVelocity: 64,
    channel: track.channel,
    origin: { kind: 'drawn' },
  }
  const home = track.clips.findIndex((clip) => clip.isSounding)
  const insert = (notes: readonly Note[]) =>
    [...notes, note].sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key)
  const clips =
    home >= 0
      ? track.clips.map((clip, index) => (index === home ? { ...clip, notes: insert(clip.notes) } : clip))
      : [...track.clips, newClip(`clip-${project.nextSerial}`, 'Drawn', [note])]
  return {
    project: {
      ...changeTrack(project, trackId, (old) => ({ ...old, clips })),
      nextSerial: project.nextSerial + 1,
    },
    noteId: note.id,
  }
}

export function addTrack(
  project: Project,
  fields: { name: string; instrument: Instrument } & Partial<Track>,
): Project {
  return newTrack(project, fields).project
}

export function deleteTrack(project: Project, trackId: string): Project {
  return { ...project, tracks: project.tracks.filter((track) => track.id !== trackId) }
}

/** A copy below the original, with new ids for its clips and notes. */
export function duplicateTrack(project: Project, trackId: string): Project {
  const index = project.tracks.findIndex((track) => track.id === trackId)
  const original = project.tracks[index]
  if (!original) return project
  let serial = project.nextSerial
  const copy: Track = {
    ...original,
    id: `track-${serial++}`,
    name: `${original.name} copy`,
    thread: project.tracks.length,
    input: null,
    clips: original.clips.map((clip) => ({
      ...clip,
      id: `clip-${serial++}`,
      notes: clip.notes.map((note) => ({ ...note, id: serial++ })),
    })),
  }
  const tracks = [...project.tracks]
  tracks.splice(index + 1, 0, copy)
  return { ...project, nextSerial: serial, tracks }
}

/** A source with a track of its own that listens to exactly it: nothing else has to be set. */
export function addSource(project: Project, source: Source, instrument: Instrument): Project {
  if (project.sources.some((known) => known.id === source.id)) return project
  const withSource = { ...project, sources: [...project.sources, source] }
  return newTrack(withSource, { name: source.name, instrument, input: source.address }).project
}

export function removeSource(project: Project, sourceId: string): Project {
  return { ...project, sources: project.sources.filter((source) => source.id !== sourceId) }
}

/**
 * Adds a recorded take: a new clip on each track that was played. Earlier clips are kept, asleep, so that nothing is
 * overwritten and nothing sounds twice; what was heard before and after the recorded stretch is heard on, copied into
 * the new clip.
 */
export function addTake(
  project: Project,
  take: TakeInfo,
  recorded: readonly RecordedTrack[],
  nextSerial: number,
): Project {
  let serial = nextSerial
  const tempoMap = new TempoMap(project.tempos)
  const endTicks = tempoMap.ticksAt(tempoMap.msAt(take.startTicks) + take.durationMs)
  const isOutside = (tick: number) => tick < take.startTicks || tick >= endTicks
  const tracks = project.tracks.map((track) => {
    const part = recorded.find((candidate) => candidate.trackId === track.id)
    if (!part) return track
    const around = soundingNotes(track)
      .filter((note) => isOutside(note.onsetTicks))
      .map((note) => ({ ...note, id: serial++ }))
    const controllersAround = track.clips
      .filter((clip) => clip.isSounding)
      .flatMap((clip) => clip.controllers.filter((event) => isOutside(event.tick)))
    const clip = newClip(`clip-${serial++}`, take.name, [...around, ...part.notes].sort(byOnset), {
      takeSerial: take.serial,
      controllers: [...controllersAround, ...part.controllers],
    })
    return { ...track, clips: [...track.clips.map((old) => ({ ...old, isSounding: false })), clip] }
  })
  return { ...project, nextSerial: serial, takes: [...project.takes, take], tracks }
}

/**
 * Takes a take off the list with its clips; where one of them was heard, the clip before it is heard again. What was
 * played stays in the journal, so that undo brings all of it back.
 */
export function deleteTake(project: Project, takeSerial: number): Project {
  return {
    ...project,
    takes: project.takes.filter((take) => take.serial !== takeSerial),
    tracks: project.tracks.map((track) => {
      const left = track.clips.filter((clip) => clip.takeSerial !== takeSerial)
      if (left.length === track.clips.length) return track
      const isStillHeard = left.some((clip) => clip.isSounding)
      return {
        ...track,
        clips: isStillHeard
          ? left
          : left.map((clip, index) => ({ ...clip, isSounding: index === left.length - 1 })),
      }
    }),
  }
}

/** Of the clips of a track, the one that is heard and written. */
export function chooseClip(project: Project, trackId: string, clipId: string): Project {
  return changeTrack(project, trackId, (track) => ({
    ...track,
    clips: track.clips.map((clip) => ({ ...clip, isSounding: clip.id === clipId })),
  }))
}

/** Hears one take on every track that was played in it. */
export function chooseTake(project: Project, takeSerial: number): Project {
  return {
    ...project,
    tracks: project.tracks.map((track) =>
      track.clips.some((clip) => clip.takeSerial === takeSerial)
        ? {
            ...track,
            clips: track.clips.map((clip) => ({ ...clip, isSounding: clip.takeSerial === takeSerial })),
          }
        : track,
    ),
  }
}

export function setEffects(project: Project, trackId: string, effects: readonly EffectSlot[]): Project {
  return changeTrack(project, trackId, (track) => ({ ...track, effects }))
}

/**
 * Prints the effects of a track: their output becomes ordinary notes on a new track right below. The effects are
 * switched off and the source track rests, so that nothing sounds twice.
 */
export function printEffects(
  project: Project,
  trackId: string,
): { project: Project; printedTrackId: string | null } {
  const index = project.tracks.findIndex((track) => track.id === trackId)
  const source = project.tracks[index]
  if (!source?.effects.some((slot) => slot.isOn)) return { project, printedTrackId: null }
  const printed = printChain(soundingNotes(source), source.effects, project.nextSerial)
  const created = newTrack(
    { ...project, nextSerial: printed.nextNoteId },
    {
      name: `${source.name}, printed`,
      instrument: source.instrument,
      volume: source.volume,
      pan: source.pan,
      isArmed: false,
      printedFromTrackId: source.id,
      clips: [newClip(`clip-print-${printed.nextNoteId}`, 'Printed', printed.notes)],
    },
  )
  const others = created.project.tracks.filter((track) => track.id !== created.track.id)
  const rested = others.map((track) =>
    track.id === source.id
      ? { ...track, isMuted: true, effects: track.effects.map((slot) => ({ ...slot, isOn: false })) }
      : track,
  )
  rested.splice(index + 1, 0, created.track)
  return { project: { ...created.project, tracks: rested }, printedTrackId: created.track.id }
}
