import { isTwoStaffInstrument } from '../notation/staves'
import { soundingNotes } from './create'
import type { Project, Track } from './schema'
import { putTogether } from './together'

/** Two tracks that are the hands of one player. */
export interface HandPair {
  readonly right: Track
  readonly left: Track
  /** What both are called, without the hands. */
  readonly name: string
}

/** What names say of hands, in words and as it is abbreviated. */
const handWords = {
  right: /\b(right|upper|treble|r\.?\s?h)\b\.?/i,
  left: /\b(left|lower|bass|l\.?\s?h)\b\.?/i,
} as const

/** The name of a track without a hand; null where it tells none. */
function withoutHand(name: string, hand: 'right' | 'left'): string | null {
  if (!handWords[hand].test(name)) return null
  return name
    .replace(handWords[hand], '')
    .replace(/\b(hand|staff|stave)\b/i, '')
    .replace(/[()[\],;:.\-–_]/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()
}

/**
 * Tracks of keyboards and harps on the page that are hands of one player: their names tell it, and are the same otherwise. Each track is
 * in one pair at most.
 */
export function handPairs({ tracks }: Pick<Project, 'tracks'>): HandPair[] {
  const able = tracks.filter(
    (track) =>
      track.isOnPage &&
      track.instrument.kind === 'program' &&
      isTwoStaffInstrument(track.instrument) &&
      soundingNotes(track).length > 0,
  )
  const taken = new Set<string>()
  return able.flatMap((right): HandPair[] => {
    const name = withoutHand(right.name, 'right')
    if (name === null) return []
    const left = able.find(
      (track) => track !== right && !taken.has(track.id) && withoutHand(track.name, 'left') === name,
    )
    if (!left) return []
    taken.add(left.id)
    return [{ right, left, name }]
  })
}

/** Both hands as one part on two staves, on a track of their own; the two rest. */
export function joinHands(project: Project, { right, left, name }: HandPair): Project {
  const { project: joined, trackId } = putTogether(project, [right.id, left.id], 'staves')
  if (trackId === null || name === '') return joined
  return {
    ...joined,
    tracks: joined.tracks.map((track) => (track.id === trackId ? { ...track, name } : track)),
  }
}
