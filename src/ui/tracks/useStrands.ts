import { useMemo } from 'react'
import { soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { threadOf } from '../theme/threads'
import { useView } from '../workspace/sessionContext'
import { handSplit } from './handSplit'
import { shapesOf } from './noteShapes'
import { handStrands, lineStrands, type Strands } from './strands'

/** How the notes of a track are joined: as they would be taken apart, by voice, or by hand. */
export function useStrands(track: Track, splitKey: number): Strands {
  const partition = useView((state) => state.partition)
  const areVoicesShown = useView((state) => state.areVoicesShown)
  const partOf = partition?.trackId === track.id ? partition.partOf : null
  return useMemo(() => {
    const notes = soundingNotes(track)
    if (partOf) return lineStrands(notes, track.thread, ({ id }) => partOf.get(id))
    if (areVoicesShown && notes.some(({ voice }) => voice !== undefined))
      return lineStrands(notes, track.thread, ({ voice }) => (voice === undefined ? undefined : voice - 1))
    const split = track.instrument.kind === 'drums' ? null : handSplit(track, splitKey)
    const areStavesTold = split !== null && notes.some(({ staff }) => staff !== undefined)
    return handStrands(
      shapesOf(notes),
      threadOf(track.thread),
      split,
      areStavesTold ? (index) => notes[index]!.staff : null,
    )
  }, [track, partOf, areVoicesShown, splitKey])
}
