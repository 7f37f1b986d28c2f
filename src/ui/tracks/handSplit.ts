import { planStaves } from '@/core/notation/staves'
import { soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'

/** The key at which a track is written on two staves; null when it is written on one. */
export function handSplit(track: Track, splitKey: number): number | null {
  return planStaves(soundingNotes(track), track.instrument, splitKey, track.staffSplitKey).splitKey
}
