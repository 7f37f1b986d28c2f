import { createStore } from 'zustand/vanilla'
import type { Clip, Project } from '@/core/project/schema'
import { saveProject } from './database'
import type { ProjectStore } from './projectStore'

export type SaveState =
  | { readonly state: 'saved'; readonly atMs: number }
  | { readonly state: 'waiting' }
  | { readonly state: 'failed'; readonly reason: string; readonly sinceMs: number }

const delayMs = 400

/**
 * Writes the project shortly after each change, and at once when the page is hidden. When storage refuses, the state
 * says so and every later change tries again; nothing in memory is dropped.
 */
export function startAutosave(store: ProjectStore, alreadySaved: Project | null) {
  const status = createStore<SaveState>(() => ({ state: 'saved', atMs: Date.now() }))
  const saved = new Map<string, Pick<Clip, 'notes' | 'controllers'>>(
    alreadySaved?.tracks.flatMap((track) => track.clips.map((clip) => [clip.id, clip] as const)) ?? [],
  )
  let lastSaved: Project | null = alreadySaved
  let timer: ReturnType<typeof setTimeout> | undefined
  let running: Promise<void> = Promise.resolve()

  const write = async () => {
    const { project, isReadOnly } = store.getState()
    if (isReadOnly || project === lastSaved) return
    try {
      await saveProject(project, saved, Date.now())
      lastSaved = project
      status.setState({ state: 'saved', atMs: Date.now() }, true)
    } catch (error) {
      const before = status.getState()
      status.setState(
        {
          state: 'failed',
          reason: storageReason(error),
          sinceMs: before.state === 'failed' ? before.sinceMs : Date.now(),
        },
        true,
      )
    }
  }
  const flush = () => {
    clearTimeout(timer)
    timer = undefined
    running = running.then(write)
    return running
  }
  const unsubscribe = store.subscribe((state, previous) => {
    if (state.project === previous.project || state.isReadOnly) return
    if (status.getState().state === 'saved') status.setState({ state: 'waiting' }, true)
    clearTimeout(timer)
    timer = setTimeout(flush, delayMs)
  })
  const onHide = () => {
    if (document.visibilityState === 'hidden') void flush()
  }
  document.addEventListener('visibilitychange', onHide)
  window.addEventListener('pagehide', flush)
  if (!alreadySaved) void flush()
  return {
    status,
    flush,
    stop() {
      unsubscribe()
      document.removeEventListener('visibilitychange', onHide)
      window.removeEventListener('pagehide', flush)
      return flush()
    },
  }
}

function storageReason(error: unknown): string {
  const name = error instanceof DOMException ? error.name : ''
  if (name === 'QuotaExceededError') return 'The browser’s storage is full'
  return error instanceof Error ? error.message : String(error)
}
