import type { Project, Track } from './schema'

/** Tracks and what was made of them, by printing, taking apart or putting together. */
export interface Family {
  readonly sources: readonly Track[]
  readonly made: readonly Track[]
  readonly by: NonNullable<Track['madeFrom']>['by']
}

/** What a track was made from, or what was made of it; null where it stands for itself. */
export function familyOf(project: Pick<Project, 'tracks'>, trackId: string): Family | null {
  const track = project.tracks.find((candidate) => candidate.id === trackId)
  const origin = track?.madeFrom ?? madeOf(project, trackId).at(-1)?.madeFrom
  if (!origin) return null
  const sources = project.tracks.filter(({ id }) => origin.trackIds.includes(id))
  if (sources.length === 0) return null
  const made = project.tracks.filter(
    ({ madeFrom }) =>
      madeFrom?.by === origin.by && madeFrom.trackIds.some((id) => origin.trackIds.includes(id)),
  )
  return { sources, made, by: origin.by }
}

function madeOf({ tracks }: Pick<Project, 'tracks'>, trackId: string): Track[] {
  return tracks.filter(({ madeFrom }) => madeFrom?.trackIds.includes(trackId))
}

/** Hears the sources of a family that a track belongs to, or what was made of them: one of them, to compare. */
export function hearInTurn(project: Project, trackId: string, which: 'sources' | 'made'): Project {
  const family = familyOf(project, trackId)
  if (!family) return project
  const { sources, made } = family
  return withEach(project, (track) => {
    if (sources.some(({ id }) => id === track.id)) return { ...track, isMuted: which === 'made' }
    return made.some(({ id }) => id === track.id) ? { ...track, isMuted: which === 'sources' } : track
  })
}

/**
 * Brings sources back with their effects; what was made of them rests. What was taken apart or put together is on the page once:
 * as what it was before.
 */
export function bringBack(project: Project, trackId: string): Project {
  // What was made may have been deleted: the source is still there, at rest.
  const alone: Family = {
    sources: project.tracks.filter(({ id }) => id === trackId),
    made: [],
    by: 'printing',
  }
  const { sources, made, by } = familyOf(project, trackId) ?? alone
  const isOnPage = by === 'printing' ? {} : { isOnPage: true }
  const isOffPage = by === 'printing' ? {} : { isOnPage: false }
  return withEach(project, (track) => {
    if (sources.some(({ id }) => id === track.id))
      return { ...track, isMuted: false, doEffectsRest: false, ...isOnPage }
    return made.some(({ id }) => id === track.id) ? { ...track, isMuted: true, ...isOffPage } : track
  })
}

function withEach(project: Project, change: (track: Track) => Track): Project {
  return { ...project, tracks: project.tracks.map(change) }
}

/** A source rests: it is there with all its settings, neither heard nor on the page. */
export function atRest(track: Track): Track {
  return { ...track, isMuted: true, isSolo: false, isOnPage: false }
}

/** What was made of some tracks in the same way before: it rests and stands for itself, since they are made something else of. */
export function replacedBy(
  tracks: readonly Track[],
  sourceIds: readonly string[],
  by: Family['by'],
): readonly Track[] {
  return tracks.map((track) => {
    const { madeFrom } = track
    if (madeFrom?.by !== by || !madeFrom.trackIds.some((id) => sourceIds.includes(id))) return track
    return { ...(by === 'printing' ? { ...track, isMuted: true } : atRest(track)), madeFrom: null }
  })
}
