import { useCallback, useRef } from 'react'
import type { ChosenOnPage } from '@/core/notation/amendments/stroke'
import type { WalkDirection } from '@/core/notation/noteWalk'
import { findNote } from '@/core/project/findNote'
import { useSession } from '../workspace/sessionContext'
import { viewStore } from '../workspace/viewStore'
import { chosenOnPage } from './chosenOnPage'

const walkKeys: Readonly<Record<string, WalkDirection>> = {
  ArrowRight: 'next',
  ArrowLeft: 'previous',
  ArrowUp: 'above',
  ArrowDown: 'below',
}

/** What a press means for what is chosen: this alone, this too, or all from the last to this. */
export type Picking = 'alone' | 'also' | 'through'

/** Choosing noteheads and rests: by a press, and by walking from one to the next with the arrow keys. */
export function useNoteWalk() {
  const session = useSession()
  /** Where the choice of several began, and where it has come to. */
  const anchor = useRef<number | null>(null)
  const reached = useRef<number | null>(null)

  const sound = useCallback(
    (noteId: number) => {
      const found = findNote(session.store.getState().project, noteId)
      if (!found) return false
      viewStore.setState({ trackId: found.trackId })
      session.audition(found.trackId, found.note.key, found.note.velocity)
      return true
    },
    [session],
  )
  const through = useCallback(
    async (noteId: number) => {
      reached.current = noteId
      const between = await session.engraving.notesBetween(anchor.current ?? noteId, noteId)
      viewStore.setState({ noteIds: new Set(between), rest: null })
    },
    [session],
  )
  const pick = useCallback(
    (noteId: number, how: Picking = 'alone') => {
      if (!sound(noteId)) return
      const { noteIds } = viewStore.getState()
      anchor.current ??= noteIds.values().next().value ?? noteId
      if (how === 'through') return void through(noteId)
      const others = [...noteIds].filter((id) => id !== noteId)
      const isLeaving = how === 'also' && noteIds.has(noteId)
      viewStore.setState({
        noteIds: new Set(how === 'alone' ? [noteId] : isLeaving ? others : [...others, noteId]),
        rest: null,
      })
      anchor.current = noteId
      reached.current = noteId
    },
    [sound, through],
  )
  const pickRest = useCallback((rest: Extract<ChosenOnPage, { readonly kind: 'rest' }>) => {
    viewStore.setState({ noteIds: new Set(), rest, trackId: rest.partId })
  }, [])

  /** @returns whether the key was one of them */
  const walkBy = (event: React.KeyboardEvent): boolean => {
    const direction = walkKeys[event.code]
    if (!direction || event.ctrlKey || event.metaKey || event.altKey) return false
    event.preventDefault()
    const isReaching = event.shiftKey
    session.inTurn(async () => {
      const state = viewStore.getState()
      const isLast = reached.current !== null && state.noteIds.has(reached.current)
      const from: ChosenOnPage | null = isLast
        ? { kind: 'notes', noteIds: [reached.current!] }
        : chosenOnPage(state)
      let next = await session.engraving.walk(from, direction)
      // Rests are left out of what is chosen together.
      while (isReaching && next?.kind === 'rest') next = await session.engraving.walk(next, direction)
      if (next?.kind === 'rest') pickRest(next)
      else if (next && isReaching) {
        if (sound(next.noteIds[0]!)) await through(next.noteIds[0]!)
      } else if (next) pick(next.noteIds[0]!)
    })
    return true
  }
  return { pick, pickRest, walkBy }
}
