import { type Remote, wrap } from 'comlink'
import type { Milliseconds } from '@/core/time/units'
import type { ComputeApi } from '@/engine/compute/compute.worker'
import { isPreparedAhead } from './preparedAhead'

/** A piece of work that takes longer than this has got stuck. */
const longestWorkMs: Milliseconds = 300_000

/** Started this much after it is known to be needed: first what is seen, then what may be needed. */
const prepareAfterMs: Milliseconds = 1500

/** The part of the program that reads and writes files could not do its work, in a sentence. */
export class ComputingError extends Error {
  override name = 'ComputingError'
}

export type Computing = WorkThread<ComputeApi>

/** A thread for long work, started when it is needed. */
export type WorkThread<Api> = ReturnType<typeof createWorkThread<Api>>

/** Work on files. */
export function createComputing(
  startWorker = () =>
    new Worker(new URL('../engine/compute/compute.worker.ts', import.meta.url), { type: 'module' }),
) {
  return createWorkThread<ComputeApi>(startWorker, 'works on files')
}

/**
 * Work in a thread of its own. The thread is there before it is needed, so that it also works when the network is
 * gone by then; every wait for it ends, with a result or with a sentence.
 *
 * @param what the part of the program does, as its sentences say it
 */
export function createWorkThread<Api>(startWorker: () => Worker, what: string) {
  let running: { readonly worker: Worker; readonly api: Remote<Api> } | null = null
  let preparing: ReturnType<typeof setTimeout> | undefined
  const waiting = new Set<(error: ComputingError) => void>()

  function end(reason: string): void {
    running?.worker.terminate()
    running = null
    for (const fail of waiting) fail(new ComputingError(reason))
    waiting.clear()
  }

  function start() {
    if (running) return running
    const worker = startWorker()
    worker.onerror = (event) => {
      event.preventDefault()
      end(
        event.message
          ? `the part of the program that ${what} stopped: ${event.message}`
          : `the part of the program that ${what} could not be loaded; when the network is back, try again`,
      )
    }
    worker.onmessageerror = () => end('an answer could not be read')
    running = { worker, api: wrap<Api>(worker) }
    return running
  }

  return {
    /** Starts the thread ahead of its first work. */
    prepare(): void {
      if (isPreparedAhead()) start()
    },

    /** The same, a little later. */
    prepareSoon(): void {
      preparing = setTimeout(() => this.prepare(), prepareAfterMs)
    },

    /**
     * Has a piece of work done.
     *
     * @throws ComputingError when the thread cannot be loaded, stops, is stopped or gets stuck; what the work throws otherwise
     */
    run<Result>(work: (api: Remote<Api>) => Promise<Result>, longestMs = longestWorkMs): Promise<Result> {
      return new Promise<Result>((resolve, reject) => {
        const fail = (error: ComputingError) => {
          clearTimeout(timer)
          reject(error)
        }
        waiting.add(fail)
        const timer = setTimeout(
          () => end(`it was not done after ${Math.round(longestMs / 60_000)} minutes and was given up`),
          longestMs,
        )
        const done = () => {
          clearTimeout(timer)
          waiting.delete(fail)
        }
        work(start().api).then(
          (result) => {
            done()
            resolve(result)
          },
          (error) => {
            done()
            reject(error)
          },
        )
      })
    },

    /** Gives up what is being worked on. */
    stop(): void {
      clearTimeout(preparing)
      end('it was stopped')
    },
  }
}
