import { createStore } from 'zustand/vanilla'
import type { ClipInside } from '@/core/project/content'
import type { Project } from '@/core/project/schema'
import type { Milliseconds } from '@/core/time/units'
import { ProjectConflictError, saveProject } from './database'
import type { Holding } from './holding'
import { leaveLastWord, takeLastWordBack } from './lastWord'
import type { ProjectStore } from './projectStore'

export type SaveState =
  | { readonly state: 'saved'; readonly atMs: number }
  | { readonly state: 'waiting' }
  | { readonly state: 'failed'; readonly reason: string; readonly sinceMs: number }
  /** Another tab has deleted or changed what is stored: nothing is written over it unasked. */
  | { readonly state: 'conflict'; readonly conflict: ProjectConflictError['conflict'] }

/** After a change this much quiet is waited for. */
const pauseMs: Milliseconds = 300
/** A change waits no longer than this, however busily it goes on. */
const longestMs: Milliseconds = 1000
/** Where storage refused, it is asked again after this long. */
const retryMs: Milliseconds = 2000

interface AutosaveOptions {
  readonly store: ProjectStore
  /** What is stored already, and since when; null where nothing is. */
  readonly stored: { readonly project: Project; readonly changedAtMs: number } | null
  readonly holding: Pick<Holding, 'number' | 'known'>
  onSaved(project: Project): void
  /** What had been stored was gone, and it is stored again; told in a sentence. */
  onWrittenAgain(sentence: string): void
}

const clearedSentence =
  'This browser’s data were cleared while the piece was open. Everything you see has been stored again, but takes as they were played and files kept with the piece may be gone. Save the project to a file under Deliver.'

/**
 * Writes the project shortly after each change, during long editing every second, and at once when the page is hidden. When
 * storage refuses, the state says so, and it is tried again every other second and with every change; nothing in memory is dropped.
 */
export function startAutosave({ store, stored, holding, onSaved, onWrittenAgain }: AutosaveOptions) {
  /** Typed text that waits to become a change. */
  const edits = new Set<() => void>()
  const collectEdits = () => {
    for (const collect of edits) collect()
  }
  const status = createStore<SaveState>(() => ({ state: 'saved', atMs: Date.now() }))
  const saved = new Map<string, ClipInside>(
    stored?.project.tracks.flatMap((track) => track.clips.map((clip) => [clip.id, clip] as const)) ?? [],
  )
  let lastSaved: Project | null = stored?.project ?? null
  let lastSavedAtMs = stored?.changedAtMs
  /** The moment of the record that was handed over last, stored or not. */
  let underWayAtMs: number | undefined
  let timer: ReturnType<typeof setTimeout> | undefined
  let waitingSinceMs: Milliseconds | null = null
  let running: Promise<void> = Promise.resolve()
  let isStopped = false

  const write = async (isLeaving: boolean) => {
    const { project, isReadOnly } = store.getState()
    if (isReadOnly || project === lastSaved) return
    if (status.getState().state === 'conflict') return
    // Never the moment of the record before: each is told from the other by it.
    const nowMs = Math.max(Date.now(), (lastSavedAtMs ?? 0) + 1, (underWayAtMs ?? 0) + 1)
    if (isLeaving) {
      const followsAtMs = [lastSavedAtMs, underWayAtMs].filter((atMs) => atMs !== undefined)
      leaveLastWord({ project, saved, changedAtMs: nowMs, followsAtMs, holding: holding.known() })
    }
    underWayAtMs = nowMs
    try {
      const number = isLeaving ? holding.known() : await holding.number()
      const { wasGone } = await saveProject(project, saved, nowMs, {
        expectedAtMs: lastSavedAtMs,
        ...(number !== null && { holding: number }),
        isLeaving,
        lastSaved,
      })
      if (isLeaving) takeLastWordBack(project.id)
      lastSaved = project
      lastSavedAtMs = nowMs
      status.setState({ state: 'saved', atMs: nowMs }, true)
      onSaved(project)
      if (wasGone) onWrittenAgain(clearedSentence)
    } catch (error) {
      if (error instanceof ProjectConflictError) {
        status.setState({ state: 'conflict', conflict: error.conflict }, true)
        return
      }
      const before = status.getState()
      const sinceMs = before.state === 'failed' ? before.sinceMs : Date.now()
      status.setState({ state: 'failed', reason: storageReason(error), sinceMs }, true)
      if (!isStopped) timer ??= setTimeout(flush, retryMs)
    }
  }
  const flush = () => {
    clearTimeout(timer)
    timer = undefined
    collectEdits()
    waitingSinceMs = null
    running = running.then(() => write(false))
    return running
  }
  const unsubscribe = store.subscribe((state, previous) => {
    if (state.project === previous.project || state.isReadOnly) return
    if (status.getState().state === 'saved') status.setState({ state: 'waiting' }, true)
    const nowMs = performance.now()
    waitingSinceMs ??= nowMs
    clearTimeout(timer)
    timer = setTimeout(flush, Math.max(0, Math.min(pauseMs, waitingSinceMs + longestMs - nowMs)))
  })
  const onHide = () => {
    if (document.visibilityState === 'hidden') void flush()
  }
  /** The last word of a page that goes: it waits for nothing. */
  const onLeave = () => {
    collectEdits()
    void write(true)
  }
  document.addEventListener('visibilitychange', onHide)
  window.addEventListener('pagehide', onLeave)
  if (!stored) void flush()
  return {
    status,
    flush,
    /** Typed text that becomes a change only after a pause: asked for before anything is stored. @returns how to end that */
    holdEdit(collect: () => void) {
      edits.add(collect)
      return () => edits.delete(collect)
    },
    /** Writes over what another tab has left there. */
    writeOver(): Promise<void> {
      lastSavedAtMs = undefined
      saved.clear()
      lastSaved = null
      status.setState({ state: 'waiting' }, true)
      return flush()
    },
    stop() {
      isStopped = true
      unsubscribe()
      document.removeEventListener('visibilitychange', onHide)
      window.removeEventListener('pagehide', onLeave)
      return flush()
    },
  }
}

function storageReason(error: unknown): string {
  const name = error instanceof DOMException ? error.name : ''
  if (name === 'QuotaExceededError') return 'The browser’s storage is full'
  return error instanceof Error ? error.message : String(error)
}
