import { proxy } from 'comlink'
import type { Project } from '@/core/project/schema'
import type { PrintApi } from '@/engine/print/print.worker'
import type { PrintedBook } from '@/engine/print/printedPage'
import { createWorkThread } from './computing'

/** Pages of a score and its parts, with the PDF they make. */
export interface Printed {
  readonly project: Project
  readonly books: readonly PrintedBook[]
  readonly pdf: Uint8Array
}

/** More threads than this do not help: the longest book takes as long as it takes. */
const mostThreads = 2

/** Engraves books in threads of their own, several at once. */
export function createPrinting() {
  const threads = Array.from({ length: Math.min(mostThreads, navigator.hardwareConcurrency || 1) }, () =>
    createWorkThread<PrintApi>(
      () => new Worker(new URL('../engine/print/print.worker.ts', import.meta.url), { type: 'module' }),
      'prints',
    ),
  )
  return {
    /**
     * @param wanted indices of parts; null for the score; in the order they are bound
     * @param onLine is told how many lines of music are done
     * @throws ComputingError when a thread cannot be loaded, stops or is stopped; what engraving throws otherwise
     */
    async print(
      project: Project,
      wanted: readonly (number | null)[],
      onLine: (done: number) => void,
    ): Promise<Printed> {
      let done = 0
      const books = new Array<PrintedBook>(wanted.length)
      let next = 0
      const afterLine = () => onLine(++done)
      const work = async (thread: (typeof threads)[number]) => {
        await thread.run((print) => print.open(project))
        while (next < wanted.length) {
          const place = next++
          books[place] = await thread.run((print) => print.engrave(wanted[place]!, proxy(afterLine)))
        }
      }
      try {
        await Promise.all(threads.slice(0, wanted.length).map(work))
        const pdf = await threads[0]!.run((print) => print.pdf(books))
        return { project, books, pdf }
      } catch (error) {
        // The other thread works on for nobody.
        for (const thread of threads) thread.stop()
        throw error
      }
    },

    stop(): void {
      for (const thread of threads) thread.stop()
    },
  }
}
