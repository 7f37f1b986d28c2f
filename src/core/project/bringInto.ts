import { byOnset, type NoteId } from '../event/note'
import { manuscriptOfCopy } from '../notation/manuscript/manuscriptOfCopy'
import type { Ticks } from '../time/units'
import { lastTick } from '../time/units'
import { changeTrack } from './commands'
import { contextOf } from './context'
import { projectEndTicks } from './create'
import type { Clip, Project, Track } from './schema'
import { addWords } from './words'

/** How a piece is brought into another. */
export interface BringingInto {
  /** The bar of the piece at which it begins, from 1. */
  readonly atBar: number
  /** Whose tempo and meter hold while it plays: those of the piece, or its own, with its keys. */
  readonly time: 'piece' | 'file'
  /** The track whose place its first part takes, which rests then; null: all its parts are tracks of their own. */
  readonly inPlaceOf: string | null
}

/**
 * A piece with the tracks of another in it. Notes, curves, words, sections and what a file wrote come along; takes, players and wiring
 * stay where they are.
 *
 * @returns the piece, or why nothing was done
 */
export function bringInto(
  project: Project,
  brought: Project,
  { atBar, time, inPlaceOf }: BringingInto,
): Project | { readonly problem: string } {
  const atTicks = contextOf(project).meterMap.measure(Math.max(0, atBar - 1)).startTicks
  const endTicks = projectEndTicks(brought)
  if (endTicks === 0) return { problem: 'There is no note in it.' }
  if (atTicks + endTicks > lastTick) return { problem: 'The piece would be longer than can be kept.' }
  const renumbered = new Renumbering(project.nextSerial)
  const tracks = brought.tracks
    .filter(({ clips }) => clips.some(({ isSounding, notes }) => isSounding && notes.length > 0))
    .map((track, index) => carried(track, atTicks, renumbered, project.tracks.length + index))
  const trackIds = new Map(tracks.map(({ from, track }) => [from, track.id]))
  const host = project.tracks.find(({ id }) => id === inPlaceOf)
  const first = tracks[0]!
  if (host) trackIds.set(first.from, host.id)
  const words = brought.words.flatMap((each) => {
    const trackId = each.trackId === null ? null : trackIds.get(each.trackId)
    return trackId === undefined ? [] : [{ ...each, trackId, tick: each.tick + atTicks }]
  })
  const amendments = brought.amendments.flatMap((each) => {
    if ('noteId' in each || 'trackId' in each) return []
    const moved = { ...each, tick: each.tick + atTicks }
    return ['lastBarTick' in moved ? { ...moved, lastBarTick: moved.lastBarTick + atTicks } : moved]
  })
  const whole: Project = {
    ...project,
    nextSerial: renumbered.next,
    tracks: [...project.tracks, ...tracks.slice(host ? 1 : 0).map(({ track }) => track)],
    sections: [
      ...project.sections,
      ...brought.sections.map((section) => ({ ...section, tick: section.tick + atTicks })),
    ].sort(byTick),
    // Repeats and lines are those of its bars: among other bars they would be of others.
    amendments: time === 'file' ? [...project.amendments, ...amendments] : project.amendments,
    ...(time === 'file' ? timeOf(project, brought, atTicks, endTicks) : {}),
  }
  const placed = host
    ? changeTrack(whole, host.id, (track) => ({
        ...track,
        clips: [...track.clips.map((clip) => ({ ...clip, isSounding: false })), ...first.track.clips],
      }))
    : whole
  return addWords(placed, words)
}

const byTick = (a: { readonly tick: Ticks }, b: { readonly tick: Ticks }) => a.tick - b.tick

/** Tempo, meter and key of what is brought for as long as it lasts; behind it those of the piece hold again. */
function timeOf(project: Project, brought: Project, atTicks: Ticks, lengthTicks: Ticks) {
  const last = contextOf(brought).meterMap.measureAt(Math.max(0, lengthTicks - 1))
  const endTicks = atTicks + last.startTicks + last.lengthTicks
  const within = <Of extends { readonly tick: Ticks }>(own: readonly Of[], theirs: readonly Of[]): Of[] => {
    const before = own.filter(({ tick }) => tick < atTicks)
    const after = own.filter(({ tick }) => tick > endTicks)
    const again = own.findLast(({ tick }) => tick <= endTicks)
    const inside = theirs
      .map((each) => ({ ...each, tick: each.tick + atTicks }))
      .filter(({ tick }) => tick < endTicks)
    return [
      ...before,
      ...inside,
      ...(again && inside.length > 0 ? [{ ...again, tick: endTicks }] : []),
      ...after,
    ]
  }
  return {
    tempos: within(project.tempos, brought.tempos),
    meters: within(project.meters, brought.meters),
    keys: keysWith(project, brought, within(project.keys, brought.keys), atTicks),
  }
}

/** Keys are told of all of a piece or found in all of it: where those of the piece are found, they still are, unless nothing is in it yet. */
function keysWith(
  project: Project,
  brought: Project,
  both: Project['keys'],
  atTicks: Ticks,
): Project['keys'] {
  if (brought.keys.length === 0) return project.keys
  if (project.keys.length > 0) return both
  if (projectEndTicks(project) > 0) return []
  return brought.keys.map((key, index) => ({ ...key, tick: index === 0 ? 0 : key.tick + atTicks }))
}

/** Numbers that nothing in the piece has yet. */
class Renumbering {
  private readonly notes = new Map<NoteId, NoteId>()

  constructor(public next: number) {}

  note(id: NoteId): NoteId {
    const known = this.notes.get(id) ?? this.next++
    this.notes.set(id, known)
    return known
  }
}

function carried(
  track: Track,
  byTicks: Ticks,
  renumbered: Renumbering,
  thread: number,
): { readonly from: string; readonly track: Track } {
  const clips = track.clips
    .filter(({ isSounding }) => isSounding)
    .map(({ manuscript, ...clip }): Clip => {
      const notes = clip.notes.map((note) => ({
        ...note,
        id: renumbered.note(note.id),
        onsetTicks: note.onsetTicks + byTicks,
      }))
      return {
        ...clip,
        id: `clip-${renumbered.next++}`,
        takeSerial: null,
        combinedFrom: null,
        notes: notes.sort(byOnset),
        controllers: clip.controllers.map((event) => ({ ...event, tick: event.tick + byTicks })),
        ...(manuscript && { manuscript: manuscriptOfCopy(manuscript, (id) => renumbered.note(id), byTicks) }),
      }
    })
  return {
    from: track.id,
    track: {
      ...track,
      id: `track-${renumbered.next++}`,
      thread,
      routes: [],
      sendTo: null,
      madeFrom: null,
      isArmed: false,
      effectChanges: track.effectChanges.map((change) => ({ ...change, tick: change.tick + byTicks })),
      clips,
    },
  }
}
