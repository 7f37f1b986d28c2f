import { useEffect, useRef } from 'react'
import type { EarPicture } from '@/core/pitch/ear'
import { useSession } from '../workspace/sessionContext'

/** Has what an input is like drawn as it comes, without the page being laid out anew each time. */
export function useEarPicture(sourceId: string, draw: (picture: EarPicture) => void): void {
  const session = useSession()
  const latest = useRef(draw)
  latest.current = draw
  useEffect(
    () => session.soundInputs.onPicture(sourceId, (picture) => latest.current(picture)),
    [session, sourceId],
  )
}
