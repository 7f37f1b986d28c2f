import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import { Piscina } from 'piscina'
import { FairTurns } from './fairTurns'
import type { ScoreAnswer, ScoreTask } from './scoreTask'

/** More than this at once, at work and waiting, are sent away to come again. */
const mostAtOnce = 32
/** Of one client so many wait, so that there is room for others. */
const mostOfOne = 15
/** From the moment its turn has come. */
const longestMs = 15_000
/** One that takes long holds up no other. */
const places = Math.max(2, availableParallelism() - 1)
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

const turns = new FairTurns(places)
let pool: Piscina<ScoreTask, ScoreAnswer> | undefined

function threads(): Piscina<ScoreTask, ScoreAnswer> {
  pool ??= new Piscina({
    filename: join(process.cwd(), 'server-threads', 'score.mjs'),
    minThreads: 0,
    maxThreads: places,
    idleTimeout: 20_000,
    resourceLimits: { maxOldGenerationSizeMb: mostMemoryMb },
  })
  return pool
}

/**
 * Has a score written on another thread, bounded in time, memory and waiting; whoever asks for much waits for whoever asks for little.
 *
 * @throws ScorePoolError when one of the bounds is met
 */
export async function writeScore(task: ScoreTask, client: string): Promise<ScoreAnswer> {
  if (turns.count >= mostAtOnce || turns.waitingOf(client) >= mostOfOne)
    throw new ScorePoolError(503, 'Too many scores are being written; try again in a moment')
  return turns.run(client, () => writeNow(task))
}

async function writeNow(task: ScoreTask): Promise<ScoreAnswer> {
  const signal = AbortSignal.timeout(longestMs)
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
  }
}

/** Ends the threads, as tests do. */
export async function closeScorePool(): Promise<void> {
  await pool?.destroy()
  pool = undefined
}
