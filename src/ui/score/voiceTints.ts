import type { NoteId } from '@/core/event/note'
import { soundingNotes } from '@/core/project/create'
import type { Track } from '@/core/project/schema'
import { lineThread } from '../tracks/strands'

/** The colour of each note that was told which voice it belongs to, on tracks with several; null where there is none. */
export function voiceTints(tracks: readonly Track[]): ReadonlyMap<NoteId, string> | null {
  const tints = new Map<NoteId, string>()
  for (const track of tracks) {
    if (!track.isOnPage) continue
    for (const { id, voice } of soundingNotes(track))
      if (voice !== undefined) tints.set(id, lineThread(track.thread, voice - 1).colour)
  }
  return tints.size > 0 ? tints : null
}
