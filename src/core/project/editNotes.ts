import type { Edited, NoteOperation } from '../editing/operation'
import { type OperationName, operations } from '../editing/operations'
import { lengthInBeats } from '../editing/timing'
import { defaultsOf, type Fields, type SettingsOf } from '../effects/settings'
import { byOnset, type Note, type NoteId, noteEndTicks } from '../event/note'
import type { Stretch } from '../time/timeSchemas'
import type { Ticks } from '../time/units'
import { changeNotes } from './commands'
import { contextOf } from './context'
import { notesAsPlayed, soundingNotes } from './create'
import type { Project, Track } from './schema'

/** For which notes an operation is: those that are chosen, wherever they are; of the track alone where none is. */
export interface Chosen {
  readonly trackId: string
  readonly noteIds: ReadonlySet<NoteId>
}

export interface EditOptions {
  readonly positionTicks: Ticks
  readonly seed: number
  /** The track whose timing is laid on. */
  readonly timingTrackId?: string | null
}

/** What an operation did to the piece. */
export interface EditResult {
  readonly project: Project
  readonly changed: number
  readonly left: number
  /** Notes before and after: a count that must be told where it is not the same. */
  readonly before: number
  readonly after: number
}

/** The notes of one track that are chosen. */
export interface ChosenNotes {
  readonly count: number
  has(id: NoteId): boolean
}

const everyNote = () => true

/** The chosen notes by track; tracks without any are left out. */
export function chosenByTrack(project: Project, { trackId, noteIds }: Chosen): Map<Track, ChosenNotes> {
  const byTrack = new Map<Track, ChosenNotes>()
  const has = (id: NoteId) => noteIds.has(id)
  for (const track of project.tracks) {
    const notes = notesAsPlayed(track)
    if (noteIds.size === 0) {
      if (track.id === trackId && notes.length > 0)
        byTrack.set(track, { count: notes.length, has: everyNote })
      continue
    }
    let count = 0
    for (const { id } of notes) if (noteIds.has(id)) count++
    // Where all of a track is chosen, nothing has to be looked up again.
    if (count > 0) byTrack.set(track, { count, has: count === notes.length ? everyNote : has })
  }
  return byTrack
}

/** From the first onset to the last end of the chosen notes; null where there is none. */
export function rangeOf(byTrack: ReadonlyMap<Track, ChosenNotes>): Stretch | null {
  let [startTicks, endTicks] = [Number.POSITIVE_INFINITY, 0]
  for (const [track, chosen] of byTrack)
    for (const note of notesAsPlayed(track)) {
      if (!chosen.has(note.id)) continue
      startTicks = Math.min(startTicks, note.onsetTicks)
      endTicks = Math.max(endTicks, noteEndTicks(note))
    }
  return endTicks > 0 ? { startTicks, endTicks } : null
}

/**
 * Changes the notes of every track that has one of the chosen; of one track where none is chosen.
 *
 * @param change gets the notes of a clip, and all that are chosen, wherever they are: what moves together stops together
 */
export function changeChosen(
  project: Project,
  chosen: Chosen,
  change: (notes: readonly Note[], together: readonly Note[]) => readonly Note[],
): Project {
  const byTrack = chosenByTrack(project, chosen)
  const together = [...byTrack].flatMap(([track, { has }]) =>
    notesAsPlayed(track).filter(({ id }) => has(id)),
  )
  return [...byTrack.keys()].reduce(
    (next, track) => changeNotes(next, track.id, (notes) => change(notes, together)),
    project,
  )
}

/** Does an operation to the chosen notes of all tracks. */
export function editNotes<F extends Fields>(
  project: Project,
  operation: NoteOperation<F>,
  settings: SettingsOf<F>,
  chosen: Chosen,
  options: EditOptions,
): EditResult {
  const byTrack = chosenByTrack(project, chosen)
  const range = rangeOf(byTrack)
  let count = 0
  for (const chosenNotes of byTrack.values()) count += chosenNotes.count
  if (!range) return { project, changed: 0, left: 0, before: 0, after: 0 }
  const { tempoMap, meterMap } = contextOf(project)
  const timingTrack = project.tracks.find(({ id }) => id === options.timingTrackId)
  const timing = timingTrack ? soundingNotes(timingTrack).map(({ onsetTicks }) => onsetTicks) : []
  let serial = project.nextSerial
  let [changed, left, after] = [0, 0, count]
  const tracks = project.tracks.map((track) => {
    const ids = byTrack.get(track)
    if (!ids) return track
    const notes = notesAsPlayed(track)
    const edited = operation.edit(notes, settings, {
      ids,
      range,
      tempoMap,
      meterMap,
      timing,
      positionTicks: options.positionTicks,
      seed: options.seed,
      nextId: () => serial++,
    })
    changed += edited.changed
    left += edited.left
    after += edited.notes.length - notes.length
    return edited.changed > 0 ? withEdited(track, notes, edited) : track
  })
  return {
    project: changed > 0 ? { ...project, tracks, nextSerial: serial } : project,
    changed,
    left,
    before: count,
    after,
  }
}

/**
 * A track with notes as they are after an edit. Where several clips sound together each keeps its own notes, and what is new goes
 * to the first of them.
 */
export function withEdited(track: Track, before: readonly Note[], { notes }: Pick<Edited, 'notes'>): Track {
  const sounding = track.clips.filter(({ isSounding }) => isSounding)
  if (sounding.length === 1) {
    const clips = track.clips.map((clip) => (clip.isSounding ? { ...clip, notes } : clip))
    return { ...track, clips }
  }
  const known = new Set(before.map(({ id }) => id))
  const next = new Map(notes.map((note) => [note.id, note]))
  const added = notes.filter(({ id }) => !known.has(id))
  return {
    ...track,
    clips: track.clips.map((clip) => {
      if (!clip.isSounding) return clip
      const own = clip.notes.flatMap(({ id }) => next.get(id) ?? [])
      return { ...clip, notes: (clip === sounding[0] ? [...own, ...added] : own).sort(byOnset) }
    }),
  }
}

/** What an edit did, in words: "412 notes: transpose; 3 at the edge left as they were". */
export function editedWords(name: OperationName, { changed, left, before, after }: EditResult): string {
  const operation = operations[name]
  const many = (count: number) => `${count.toLocaleString('en')} ${count === 1 ? 'note' : 'notes'}`
  const did =
    operation.balance === 'shrinks'
      ? changed === 0
        ? 'There was nothing to take out'
        : `${many(before - after)} fewer: ${operation.title.toLowerCase()}`
      : operation.balance === 'grows'
        ? `${many(after - before)} more: ${operation.title.toLowerCase()}`
        : changed === 0
          ? `Nothing had to change: ${operation.title.toLowerCase()}`
          : `${many(changed)}: ${operation.title.toLowerCase()}`
  return left > 0 ? `${did}; ${left.toLocaleString('en')} ${operation.leftWhy ?? ''} left as they were` : did
}

/** The settings an operation begins with. */
export function startSettings(name: OperationName): SettingsOf<Fields> {
  return defaultsOf(operations[name].fields)
}

/** How far a copy lies behind the original, so that it stays in time. */
export function copyDistance(project: Project, range: Stretch): Ticks {
  return lengthInBeats(range.startTicks, range.endTicks, contextOf(project))
}
