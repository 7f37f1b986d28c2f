import { type Remote, transfer } from 'comlink'
import { createStore } from 'zustand/vanilla'
import { columnBuffers, packNotes } from '@/core/event/noteColumns'
import { headOf } from '@/core/project/content'
import { soundingNotes } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import type { ScoreOutline } from '@/engine/engraver/engraver'
import type { EngraverApi } from '@/engine/engraver/engraver.worker'
import type { ProjectStore } from './projectStore'

export interface EngravingState {
  readonly outline: ScoreOutline | null
  /** Why the page could not be written; null when it could. */
  readonly problem: string | null
}

/** While nobody looks at the page, it is brought up to date when editing pauses. */
const pauseMs = 700
/** A piece larger than this is read only when its page is looked at, so that it costs memory only then. */
const mostUnwatchedNotes = 30_000

/**
 * Keeps the engraver's score in step with the project, so that the page is ready before it is opened: changed tracks
 * are handed over, and the outline of the new score comes back. While one update runs, only the latest project waits.
 */
export function startEngraving(store: ProjectStore, engraver: Remote<EngraverApi>) {
  const state = createStore<EngravingState>(() => ({ outline: null, problem: null }))
  const handedOver = new Map<string, unknown>()
  let widthPx = 740
  let isWatched = false
  let isRunning = false
  let isWanted = false
  let timer: ReturnType<typeof setTimeout> | undefined

  const handOver = (project: Project): Promise<ScoreOutline> => {
    const changed: { trackId: string; notes: ReturnType<typeof packNotes> }[] = []
    for (const track of project.tracks) {
      const notes = soundingNotes(track)
      if (handedOver.get(track.id) === notes) continue
      handedOver.set(track.id, notes)
      changed.push({ trackId: track.id, notes: packNotes(notes) })
    }
    const buffers = changed.flatMap((change) => columnBuffers(change.notes))
    return engraver.update(headOf(project), transfer(changed, buffers), widthPx)
  }
  const run = async () => {
    clearTimeout(timer)
    timer = undefined
    isWanted = true
    if (isRunning) return
    isRunning = true
    try {
      while (isWanted) {
        isWanted = false
        state.setState({ outline: await handOver(store.getState().project), problem: null })
      }
    } catch (error) {
      state.setState({ problem: error instanceof Error ? error.message : String(error) })
    } finally {
      isRunning = false
    }
  }
  const soon = () => {
    if (isWatched) void run()
    else if (noteCount(store.getState().project) <= mostUnwatchedNotes) {
      clearTimeout(timer)
      timer = setTimeout(run, pauseMs)
    }
  }
  const unsubscribe = store.subscribe((next, previous) => {
    if (next.project !== previous.project) soon()
  })
  soon()
  let wasRun = false
  return {
    state,
    /** Somebody looks at the page, this wide: changes are written at once. */
    watch(pageWidthPx: number) {
      isWatched = true
      if (pageWidthPx !== widthPx || timer !== undefined || !wasRun) {
        wasRun = true
        widthPx = pageWidthPx
        void run()
      }
    },
    unwatch() {
      isWatched = false
    },
    /** The engraver is gone: nothing more comes from it. */
    fail(reason: string) {
      state.setState({ problem: reason })
    },
    stop() {
      clearTimeout(timer)
      unsubscribe()
    },
  }
}

function noteCount(project: Project): number {
  return project.tracks.reduce((sum, track) => sum + soundingNotes(track).length, 0)
}
