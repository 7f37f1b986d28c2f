import { createContext, useCallback, useContext, useSyncExternalStore } from 'react'
import { useStore } from 'zustand'
import type { Project } from '@/core/project/schema'
import type { LiveState } from '@/state/liveState'
import type { ProjectState } from '@/state/projectStore'
import type { Session } from '@/state/session'
import { drawWhileMoving } from './frames'
import { type ViewState, viewStore } from './viewStore'

export const SessionContext = createContext<Session | null>(null)

export function useSession(): Session {
  const session = useContext(SessionContext)
  if (!session) throw new Error('A view needs an open project around it')
  return session
}

export function useProject(): Project {
  return useStore(useSession().store, (state) => state.project)
}

export function useHistory<Part>(select: (state: ProjectState) => Part): Part {
  return useStore(useSession().store, select)
}

export function useLive<Part>(select: (state: LiveState) => Part): Part {
  return useStore(useSession().live, select)
}

export function useView<Part>(select: (state: ViewState) => Part): Part {
  return useStore(viewStore, select)
}

/** A value read again on each animation frame that changes it, while the piece runs. */
export function useFrameValue<Value>(read: () => Value): Value {
  const session = useSession()
  const subscribe = useCallback((onChange: () => void) => drawWhileMoving(session, onChange).end, [session])
  return useSyncExternalStore(subscribe, read, read)
}
