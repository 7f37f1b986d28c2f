import { useEffect, useState } from 'react'
import type { ChosenOnPage } from '@/core/notation/amendments/stroke'
import type { WrittenPlace } from '@/engine/engraver/choosing'
import { useSession } from '../workspace/sessionContext'

/** How what is chosen is written: null when it is not, undefined as long as that is not known; its line of music is brought into sight. Asked anew with each revision of the page. */
export function useWrittenPlace(
  chosen: ChosenOnPage | null,
  revision: number | undefined,
  show: (place: WrittenPlace) => void,
): WrittenPlace | null | undefined {
  const session = useSession()
  const [place, setPlace] = useState<WrittenPlace | null | undefined>(undefined)
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new revision may move the note
  useEffect(() => {
    let isGone = false
    if (chosen === null) setPlace(undefined)
    else
      void session.engraving.locate(chosen).then((found) => {
        if (isGone) return
        setPlace(found)
        if (found) show(found)
      })
    return () => {
      isGone = true
    }
  }, [session, chosen, revision, show])
  return place
}
