import { proxy } from 'comlink'
import { createStore } from 'zustand/vanilla'
import type { Project } from '@/core/project/schema'
import type { PrintApi } from '@/engine/print/print.worker'
import type { PrintedBook } from '@/engine/print/printedPage'
import { createWorkThread } from './computing'

/** Pages of a score and its parts, with the PDF they make. */
export interface Printed {
  readonly project: Project
  readonly books: readonly PrintedBook[]
  readonly pdf: Uint8Array
  /** Letters that no font here has: their places are empty. */
  readonly missingLetters: string
}

export interface PrintingState {
  /** Lines of music that are engraved; null while nothing is laid out. */
  readonly linesDone: number | null
  readonly printed: Printed | null
  /** Why the last pages were not laid out. */
  readonly problem: string | null
}

/** More threads than this do not help: the longest book takes as long as it takes. */
const mostThreads = 2

/**
 * Lays books out in threads of their own, several at once. What is under way and what was made belongs to the piece, not to the view that
 * asked for it.
 */
export function createPrinting() {
  const threads = Array.from({ length: Math.min(mostThreads, navigator.hardwareConcurrency || 1) }, () =>
    createWorkThread<PrintApi>(
      () => new Worker(new URL('../engine/print/print.worker.ts', import.meta.url), { type: 'module' }),
      'prints',
    ),
  )
  const state = createStore<PrintingState>(() => ({ linesDone: null, printed: null, problem: null }))
  const stopThreads = () => {
    for (const thread of threads) thread.stop()
  }

  async function layOut(project: Project, wanted: readonly (number | null)[]): Promise<Printed> {
    const books = new Array<PrintedBook>(wanted.length)
    let next = 0
    const afterLine = proxy(() => state.setState(({ linesDone }) => ({ linesDone: (linesDone ?? 0) + 1 })))
    const work = async (thread: (typeof threads)[number]) => {
      await thread.run((print) => print.open(project))
      while (next < wanted.length) {
        const place = next++
        books[place] = await thread.run((print) => print.engrave(wanted[place]!, afterLine))
      }
    }
    await Promise.all(threads.slice(0, wanted.length).map(work))
    return { project, books, ...(await threads[0]!.run((print) => print.pdf(books))) }
  }

  return {
    state,

    /**
     * Lays pages out; while that is under way it is not begun again. What comes of it is in the state.
     *
     * @param wanted indices of parts; null for the score; in the order they are bound
     */
    async print(project: Project, wanted: readonly (number | null)[]): Promise<void> {
      if (state.getState().linesDone !== null) return
      state.setState({ linesDone: 0, problem: null })
      try {
        state.setState({ printed: await layOut(project, wanted) })
      } catch (error) {
        // The other thread works on for nobody.
        stopThreads()
        state.setState({ problem: error instanceof Error ? error.message : String(error) })
      } finally {
        state.setState({ linesDone: null })
      }
    },

    stop: stopThreads,
  }
}
