import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import { Piscina } from 'piscina'
import type { ScoreAnswer, ScoreTask } from './scoreTask'

/** More than this at once, at work and waiting, are sent away to come again. */
const mostAtOnce = 17
const longestMs = 30_000
const mostMemoryMb = 1024

/** The work could not be done: `status` is that of the answer. */
export class ScorePoolError extends Error {
  override name = 'ScorePoolError'

  constructor(
    readonly status: 413 | 503,
    message: string,
  ) {
    super(message)
  }
}

let underWay = 0
let pool: Piscina<ScoreTask, ScoreAnswer> | undefined

/** One core is left for the pages, however much there is to do here. */
function threads(): Piscina<ScoreTask, ScoreAnswer> {
  pool ??= new Piscina({
    filename: join(process.cwd(), 'server-threads', 'score.mjs'),
    minThreads: 0,
    maxThreads: Math.max(1, availableParallelism() - 1),
    idleTimeout: 20_000,
    resourceLimits: { maxOldGenerationSizeMb: mostMemoryMb },
  })
  return pool
}

/**
 * Has a score written on another thread, bounded in time, memory and waiting.
 *
 * @throws ScorePoolError when one of the bounds is met
 */
export async function writeScore(task: ScoreTask): Promise<ScoreAnswer> {
  if (underWay >= mostAtOnce)
    throw new ScorePoolError(503, 'Too many scores are being written; try again in a moment')
  const signal = AbortSignal.timeout(longestMs)
  underWay++
  try {
    return await threads().run(task, { signal })
  } catch (error) {
    const { name, code } = error as Error & { code?: string }
    if (name === 'AbortError' || signal.aborted)
      throw new ScorePoolError(
        503,
        `The score was not written after ${longestMs / 1000} seconds and was given up`,
      )
    if (code === 'ERR_WORKER_OUT_OF_MEMORY')
      throw new ScorePoolError(
        413,
        `The file needs more than ${mostMemoryMb} MB of memory; take it apart with "unbroken stems"`,
      )
    throw error
  } finally {
    underWay--
  }
}

/** Ends the threads, as tests do. */
export async function closeScorePool(): Promise<void> {
  await pool?.destroy()
  pool = undefined
}
