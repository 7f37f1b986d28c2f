import type { TakeInfo } from '../capture/takeInfo'
import { takeTicksAt } from '../capture/takePlacement'
import type { RecordedTrack } from '../capture/trackDesk'
import type { EffectSlot } from '../effects/catalogue'
import { byOnset, type ControllerEvent, type Note } from '../event/note'
import type { Instrument } from '../midi/instrument'
import { manuscriptOfCopy } from '../notation/manuscript/manuscriptOfCopy'
import { plainRoute } from '../routing/route'
import { nameWith } from '../text/bounded'
import { TempoMap } from '../time/tempoMap'
import type { Ticks } from '../time/units'
import { newClip, newTrack, notesAsPlayed, soundingControllers } from './create'
import type { Clip, Project, Source, Track } from './schema'

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
  return {
    ...project,
    tracks: project.tracks.filter((track) => track.id !== trackId),
    words: project.words.filter((words) => words.trackId !== trackId),
  }
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
    name: nameWith(original.name, ' copy'),
    thread: project.tracks.length,
    routes: [],
    clips: original.clips.map((clip): Clip => {
      const { manuscript } = clip
      const copies = new Map(clip.notes.map(({ id }) => [id, serial++]))
      return {
        ...clip,
        id: `clip-${serial++}`,
        notes: clip.notes.map((note) => ({ ...note, id: copies.get(note.id)! })),
        // Notes that are gone have no copy: what is told of them is told of nothing.
        ...(manuscript && { manuscript: manuscriptOfCopy(manuscript, (id) => copies.get(id) ?? id) }),
      }
    }),
  }
  const tracks = [...project.tracks]
  tracks.splice(index + 1, 0, copy)
  const words = project.words.flatMap((each) =>
    each.trackId === trackId ? [each, { ...each, trackId: copy.id }] : [each],
  )
  return { ...project, nextSerial: serial, tracks, words }
}

/** A source with a track of its own that listens to exactly it: nothing else has to be set. */
export function addSource(project: Project, source: Source, instrument: Instrument): Project {
  if (project.sources.some((known) => known.id === source.id)) return project
  const withSource = { ...project, sources: [...project.sources, source] }
  return newTrack(withSource, { name: source.name, instrument, routes: [plainRoute(source.address)] }).project
}

/** A new source plays a track that is there: the one that waits for it. */
export function addSourceOn(project: Project, source: Source, trackId: string): Project {
  if (project.sources.some((known) => known.id === source.id)) return project
  return changeTrack({ ...project, sources: [...project.sources, source] }, trackId, (track) => ({
    ...track,
    routes: [plainRoute(source.address)],
  }))
}

export function removeSource(project: Project, sourceId: string): Project {
  return { ...project, sources: project.sources.filter((source) => source.id !== sourceId) }
}

/** A take with what it becomes on the tracks. */
export interface RecordedTake {
  readonly take: TakeInfo
  readonly tracks: readonly RecordedTrack[]
}

/**
 * Adds recorded takes, the passes of a loop in order: a clip for each track that was played in each. Nothing is
 * overwritten: earlier clips are kept. Fresh, they go to sleep and the last clip sounds; layered, all sound together. What
 * was heard before and after the recorded stretch is in the new clips too, under the same ids, and sounds once.
 */
export function addTakes(
  project: Project,
  takes: readonly RecordedTake[],
  nextSerial: number,
  mode: 'layered' | 'fresh' = 'fresh',
): Project {
  let serial = nextSerial
  const tracks = project.tracks.map((track) => {
    const clips = takes.flatMap(({ take, tracks: parts }) => {
      const part = parts.find((candidate) => candidate.trackId === track.id)
      if (!part) return []
      const around = heardAround(track, take)
      return [
        newClip(`clip-${serial++}`, take.name, [...around.notes, ...part.notes].sort(byOnset), {
          takeSerial: take.serial,
          controllers: [...around.controllers, ...part.controllers],
        }),
      ]
    })
    if (clips.length === 0) return track
    const isLayered = mode === 'layered'
    return {
      ...track,
      clips: [
        ...track.clips.map((old) => (isLayered ? old : { ...old, isSounding: false })),
        ...clips.map((clip, index) => ({ ...clip, isSounding: isLayered || index === clips.length - 1 })),
      ],
    }
  })
  return {
    ...project,
    nextSerial: serial,
    takes: [...project.takes, ...takes.map(({ take }) => take)],
    tracks,
  }
}

/** What is heard of a track before and after the stretch of a take. */
export function heardAround(track: Track, take: TakeInfo): Pick<Clip, 'notes' | 'controllers'> {
  const endTicks = takeEndTicks(take)
  const isOutside = (tick: Ticks) => tick < take.startTicks || tick >= endTicks
  return {
    notes: notesAsPlayed(track).filter((note) => isOutside(note.onsetTicks)),
    controllers: soundingControllers(track).filter((event) => isOutside(event.tick)),
  }
}

/** Where a take ends in the piece: at its place in the tempi it was played to, or along the clock it followed. */
export function takeEndTicks(take: TakeInfo): Ticks {
  return Math.round(
    takeTicksAt({ ...take, tempoMap: new TempoMap(take.tempos) }, take.anchorMs + take.durationMs),
  )
}

/** Brings a take back as it was played, beside what was made of it. */
export function restoreAsPlayed(
  project: Project,
  takeSerial: number,
  recorded: readonly RecordedTrack[],
  nextSerial: number,
  words = 'as played',
): Project {
  const take = project.takes.find((candidate) => candidate.serial === takeSerial)
  if (!take) return project
  const others = project.takes.filter((candidate) => candidate.serial !== takeSerial)
  const restored = { take: { ...take, name: nameWith(take.name, `, ${words}`) }, tracks: recorded }
  return { ...addTakes(project, [restored], nextSerial), takes: [...others, take].sort(bySerial) }
}

/** Keeps what was played beside what the effects of its sources made of it, asleep. */
export function keepBeside(project: Project, takes: readonly RecordedTake[]): Project {
  let serial = project.nextSerial
  const tracks = project.tracks.map((track) => {
    const clips = takes.flatMap(({ take, tracks: parts }) => {
      const part = parts.find((candidate) => candidate.trackId === track.id)
      return part
        ? [
            newClip(`clip-${serial++}`, nameWith(take.name, ', as played'), part.notes, {
              takeSerial: take.serial,
              isSounding: false,
              controllers: part.controllers,
            }),
          ]
        : []
    })
    return clips.length === 0 ? track : { ...track, clips: [...clips, ...track.clips] }
  })
  return takes.length === 0 ? project : { ...project, tracks, nextSerial: serial }
}

const bySerial = (a: TakeInfo, b: TakeInfo) => a.serial - b.serial

/**
 * Takes takes off the list with their clips; where one of them was heard, the clip before it is heard again. What was
 * played stays in the journal, so that undo brings all of it back.
 */
export function deleteTakes(project: Project, serials: readonly number[]): Project {
  const isGone = ({ takeSerial }: Clip) => takeSerial !== null && serials.includes(takeSerial)
  const heard = new Set(project.takes.flatMap(({ listeners }) => listeners.map(({ trackId }) => trackId)))
  // A staff that was made for a take goes with it.
  const isOwnStaff = ({ id, clips, routes }: Track) =>
    clips.length > 0 && routes.length === 0 && !heard.has(id) && clips.every(isGone)
  const ownStaves = new Set(project.tracks.filter(isOwnStaff).map(({ id }) => id))
  return {
    ...project,
    words: project.words.filter(({ trackId }) => trackId === null || !ownStaves.has(trackId)),
    takes: project.takes.filter((take) => !serials.includes(take.serial)),
    tracks: project.tracks.flatMap((track) => {
      if (ownStaves.has(track.id)) return []
      const left = track.clips.filter((clip) => !isGone(clip))
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

/** Hears these takes, and only them, on every track that was played in one of them. */
export function chooseTakes(project: Project, serials: readonly number[]): Project {
  const isChosen = (clip: Clip) => clip.takeSerial !== null && serials.includes(clip.takeSerial)
  return {
    ...project,
    tracks: project.tracks.map((track) =>
      track.clips.some(isChosen)
        ? { ...track, clips: track.clips.map((clip) => ({ ...clip, isSounding: isChosen(clip) })) }
        : track,
    ),
  }
}

/** Lets a take sound together with what is heard, or leaves it out. */
export function layTakeOver(project: Project, takeSerial: number, isHeard: boolean): Project {
  return {
    ...project,
    tracks: project.tracks.map((track) =>
      track.clips.some((clip) => clip.takeSerial === takeSerial)
        ? {
            ...track,
            clips: track.clips.map((clip) =>
              clip.takeSerial === takeSerial ? { ...clip, isSounding: isHeard } : clip,
            ),
          }
        : track,
    ),
  }
}

/**
 * Puts a track together from several takes: in one bar, the notes and controllers of one clip are heard. The first pick
 * makes a clip of its own from what is heard now; the takes stay as they are.
 *
 * @param bar where the bar begins and how long it is
 */
export function pickBar(
  project: Project,
  trackId: string,
  bar: { readonly startTicks: Ticks; readonly lengthTicks: Ticks },
  clipId: string,
): Project {
  const track = project.tracks.find((candidate) => candidate.id === trackId)
  const from = track?.clips.find((clip) => clip.id === clipId)
  if (!track || !from || from.combinedFrom) return project
  const isInBar = (tick: Ticks) => tick >= bar.startTicks && tick < bar.startTicks + bar.lengthTicks
  const known = track.clips.find((clip) => clip.combinedFrom !== null && clip.isSounding)
  const base =
    known ??
    newClip(`clip-${project.nextSerial}`, 'Combined', notesAsPlayed(track), {
      controllers: soundingControllers(track),
      combinedFrom: [],
    })
  const combined: Clip = {
    ...base,
    isSounding: true,
    notes: [
      ...base.notes.filter((note) => !isInBar(note.onsetTicks)),
      ...from.notes.filter((note) => isInBar(note.onsetTicks)),
    ].sort(byOnset),
    controllers: [
      ...base.controllers.filter((event) => !isInBar(event.tick)),
      ...from.controllers.filter((event) => isInBar(event.tick)),
    ].sort((a, b) => a.tick - b.tick),
    combinedFrom: [
      ...base.combinedFrom!.filter((pick) => pick.barStartTicks !== bar.startTicks),
      { barStartTicks: bar.startTicks, clipId },
    ],
  }
  const asleep = track.clips
    .filter((clip) => clip.id !== combined.id)
    .map((clip) => ({ ...clip, isSounding: false }))
  return {
    ...changeTrack(project, trackId, (old) => ({ ...old, clips: [...asleep, combined] })),
    nextSerial: project.nextSerial + 1,
  }
}

export function setEffects(project: Project, trackId: string, effects: readonly EffectSlot[]): Project {
  return changeTrack(project, trackId, (track) => ({ ...track, effects }))
}

/** Changes the controllers of a track: those of the clips that are heard. */
export function changeControllers(
  project: Project,
  trackId: string,
  change: (controllers: readonly ControllerEvent[]) => readonly ControllerEvent[],
): Project {
  const track = project.tracks.find((candidate) => candidate.id === trackId)
  if (!track?.clips.some((clip) => clip.isSounding))
    return track
      ? changeTrack({ ...project, nextSerial: project.nextSerial + 1 }, trackId, (old) => ({
          ...old,
          clips: [
            ...old.clips,
            newClip(`clip-${project.nextSerial}`, 'Drawn', [], { controllers: change([]) }),
          ],
        }))
      : project
  // What several clips hold together is put into the first, so that an event is changed once.
  const all = change(soundingControllers(track))
  const home = track.clips.findIndex((clip) => clip.isSounding)
  return changeTrack(project, trackId, (old) => ({
    ...old,
    clips: old.clips.map((clip, index) =>
      index === home ? { ...clip, controllers: all } : clip.isSounding ? { ...clip, controllers: [] } : clip,
    ),
  }))
}
