import { placeInScore } from '../notation/families'
import type { Project } from './schema'

/** Tracks in the order of the staves of an orchestra; what stands at one place stays in its order. */
export function inScoreOrder(project: Project): Project {
  const tracks = project.tracks
    .map((track, index) => ({ track, place: placeInScore(track.instrument), index }))
    .sort((a, b) => a.place - b.place || a.index - b.index)
    .map(({ track }) => track)
  return tracks.every((track, index) => track === project.tracks[index]) ? project : { ...project, tracks }
}

/** A track where another one is now; those between move up or down by one. */
export function moveTrack(project: Project, trackId: string, placeOfId: string): Project {
  const from = project.tracks.findIndex(({ id }) => id === trackId)
  const to = project.tracks.findIndex(({ id }) => id === placeOfId)
  if (from < 0 || to < 0 || from === to) return project
  const tracks = [...project.tracks]
  tracks.splice(to, 0, ...tracks.splice(from, 1))
  return { ...project, tracks }
}
