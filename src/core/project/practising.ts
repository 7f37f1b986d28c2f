import type { Project, Track } from './schema'

/** How one part is heard among the others, to practise along. */
export const practiceWays = ['louder', 'alone', 'without'] as const
export type PracticeWay = (typeof practiceWays)[number]

export interface Practice {
  readonly trackId: string
  readonly way: PracticeWay
}

/** The others are so much softer beside a part that is to be heard. */
const besideShare = 0.3

/** A piece in which one part is heard louder than the others, alone, or not at all; nothing of it is stored. */
export function practising(project: Project, { trackId, way }: Practice): Project {
  if (!project.tracks.some(({ id }) => id === trackId)) return project
  return { ...project, tracks: project.tracks.map((track) => heardBeside(track, track.id === trackId, way)) }
}

function heardBeside(track: Track, isMeant: boolean, way: PracticeWay): Track {
  switch (way) {
    case 'louder':
      return isMeant ? { ...track, isMuted: false } : { ...track, volume: track.volume * besideShare }
    case 'alone':
      return { ...track, isSolo: isMeant, isMuted: isMeant ? false : track.isMuted }
    case 'without':
      return { ...track, isSolo: false, isMuted: isMeant || track.isMuted }
  }
}
