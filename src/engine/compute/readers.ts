import { type Remote, wrap } from 'comlink'
import type { IndependentReader } from '@/core/proof/proveMusicXml'
import type { ReaderApi } from './reader.worker'

/** More threads than this find no memory on small machines. */
const mostThreads = 4

/** Readers in threads of their own: each reads one thing at a time, and what comes next goes to whoever is free. */
export function readersInThreads(): IndependentReader & { end(): void } {
  const count = Math.max(1, Math.min(mostThreads, navigator.hardwareConcurrency || 1))
  const workers = Array.from(
    { length: count },
    () => new Worker(new URL('./reader.worker.ts', import.meta.url), { type: 'module' }),
  )
  const free: Remote<ReaderApi>[] = workers.map((worker) => wrap<ReaderApi>(worker))
  const waiting: ((reader: Remote<ReaderApi>) => void)[] = []
  const failed = new Promise<never>((_, reject) => {
    for (const worker of workers)
      worker.onerror = (event) => {
        event.preventDefault()
        reject(new Error(event.message || 'a thread that reads files back could not be loaded'))
      }
  })
  // Whoever waits is told; without anybody waiting it is nobody's failure.
  failed.catch(() => undefined)
  const takeFree = (): Promise<Remote<ReaderApi>> => {
    const reader = free.pop()
    return reader ? Promise.resolve(reader) : new Promise((resolve) => waiting.push(resolve))
  }
  return {
    async midiOf(musicXml) {
      const reader = await Promise.race([takeFree(), failed])
      try {
        return await Promise.race([reader.midiOf(musicXml), failed])
      } finally {
        const next = waiting.shift()
        if (next) next(reader)
        else free.push(reader)
      }
    },
    end() {
      for (const worker of workers) worker.terminate()
    },
  }
}
