import { proxy } from 'comlink'
import { createStore } from 'zustand/vanilla'
import type { Project } from '@/core/project/schema'
import type { SoundForm } from '@/core/sound/wav'
import type { SoundAccount } from '@/engine/soundFiles/soundFiles'
import type { KeptSoundFile, SoundFilesApi } from '@/engine/soundFiles/soundFiles.worker'
import { type SoundWish, soundOrderOf } from '@/engine/soundFiles/soundOrder'
import { createWorkThread } from './computing'
import type { HearingState } from './hearing'

/** Sound files of a piece as it was heard then. */
export interface RenderedSound extends SoundAccount {
  readonly files: readonly KeptSoundFile[]
  readonly form: SoundForm
  readonly project: Project
  readonly heardAs: HearingState
}

export interface SoundFilesState {
  /** How much of it is rendered, 0 to 1; null while nothing is. */
  readonly share: number | null
  readonly rendered: RenderedSound | null
  /** Why the last files were not rendered. */
  readonly problem: string | null
}

/** Rendering hours of sound takes longer than any other work. */
const longestMs = 3_600_000

/** Renders sound files in a thread of their own. */
export function createSoundFiles(hearing: {
  heard(project: Project): Project
  readonly state: { getState(): HearingState }
}) {
  const thread = createWorkThread<SoundFilesApi>(
    () =>
      new Worker(new URL('../engine/soundFiles/soundFiles.worker.ts', import.meta.url), { type: 'module' }),
    'renders sound',
  )
  const state = createStore<SoundFilesState>(() => ({ share: null, rendered: null, problem: null }))
  return {
    state,

    /** Renders a piece; while that is under way it is not begun again. What comes of it is in the state. */
    async render(project: Project, wish: SoundWish): Promise<void> {
      if (state.getState().share !== null) return
      state.setState({ share: 0, problem: null })
      const heardAs = hearing.state.getState()
      try {
        const order = soundOrderOf(hearing.heard(project), wish)
        const wholeSeconds = (order.lastsMs / 1000) * (1 + order.stems.length)
        const onSeconds = proxy((done: number) =>
          state.setState({ share: Math.min(1, done / Math.max(1, wholeSeconds)) }),
        )
        const rendered = await thread.run((api) => api.render(order, onSeconds), longestMs)
        state.setState({ rendered: { ...rendered, form: wish.form, project, heardAs } })
      } catch (error) {
        state.setState({ problem: error instanceof Error ? error.message : String(error) })
      } finally {
        state.setState({ share: null })
      }
    },

    stop: thread.stop,
  }
}
