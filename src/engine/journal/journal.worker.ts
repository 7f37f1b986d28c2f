import { expose } from 'comlink'
import type { Milliseconds } from '@/core/time/units'
import { epochNowMs } from '../clock'
import { journal } from './journal'
import type { JournalTake } from './journalTake'

/**
 * The journal's own thread: storing waits for no flood of notes in the engine, and says by its own clock when a stretch was
 * stored.
 */
const underWay = new Set<Promise<unknown>>()

function store<Result>(work: Promise<Result>): Promise<Result> {
  underWay.add(work)
  const done = () => underWay.delete(work)
  work.then(done, done)
  return work
}

const journalApi = {
  begin: (take: JournalTake): Promise<void> => store(journal.begin(take)),
  finish: (take: JournalTake): Promise<void> => store(journal.finish(take)),
  async append(...stretch: Parameters<typeof journal.append>): Promise<Milliseconds> {
    await store(journal.append(...stretch))
    return epochNowMs()
  },
  /** Resolves when everything that was handed over before is stored, or has failed to be. */
  async settled(): Promise<void> {
    await Promise.allSettled(underWay)
  },
}

export type JournalApi = typeof journalApi

expose(journalApi)
