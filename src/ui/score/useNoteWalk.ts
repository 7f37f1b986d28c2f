import { useCallback, useRef } from 'react'
import type { WalkDirection } from '@/core/notation/noteWalk'
import { findNote } from '@/core/project/findNote'
import { useSession } from '../workspace/sessionContext'
import { viewStore } from '../workspace/viewStore'

const walkKeys: Readonly<Record<string, WalkDirection>> = {
  ArrowRight: 'next',
  ArrowLeft: 'previous',
  ArrowUp: 'above',
  ArrowDown: 'below',
}

/** Choosing noteheads: by a press, and by walking from one to the next with the arrow keys. */
export function useNoteWalk(): {
  pick(noteId: number): void
  walkBy(event: React.KeyboardEvent): void
} {
  const session = useSession()
  const walking = useRef<Promise<void>>(Promise.resolve())
  const pick = useCallback(
    (noteId: number) => {
      const found = findNote(session.store.getState().project, noteId)
      if (!found) return
      viewStore.setState({ trackId: found.trackId, noteIds: new Set([noteId]) })
      session.audition(found.trackId, found.note.key, found.note.velocity)
    },
    [session],
  )
  const walkBy = (event: React.KeyboardEvent) => {
    const direction = walkKeys[event.code]
    if (!direction || event.ctrlKey || event.metaKey || event.altKey) return
    event.preventDefault()
    // One step after the other, each from where the last one led, however fast the keys come.
    walking.current = walking.current
      .then(async () => {
        const { noteIds } = viewStore.getState()
        const noteId = await session.engraving.walk(noteIds.size === 1 ? [...noteIds][0]! : null, direction)
        if (noteId !== null) pick(noteId)
      })
      .catch((error) => session.notify(`The next note could not be found: ${error.message ?? error}.`, true))
  }
  return { pick, walkBy }
}
