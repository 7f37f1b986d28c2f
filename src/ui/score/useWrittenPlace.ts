import { useEffect, useState } from 'react'
import type { WrittenPlace } from '@/engine/engraver/engraver'
import { useSession } from '../workspace/sessionContext'

/** Where a note is written, or null; its line of music is brought into sight. Asked anew with each revision of the page. */
export function useWrittenPlace(
  noteId: number | null,
  revision: number | undefined,
  scroller: React.RefObject<HTMLElement | null>,
): WrittenPlace | null {
  const session = useSession()
  const [place, setPlace] = useState<WrittenPlace | null>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new revision may move the note
  useEffect(() => {
    let isGone = false
    if (noteId === null) setPlace(null)
    else
      void session.engraving.locate(noteId).then((found) => {
        if (isGone) return
        setPlace(found)
        if (found)
          scroller.current
            ?.querySelector(`[data-system="${found.systemIndex}"]`)
            ?.scrollIntoView({ block: 'nearest' })
      })
    return () => {
      isGone = true
    }
  }, [session, noteId, revision, scroller])
  return place
}
