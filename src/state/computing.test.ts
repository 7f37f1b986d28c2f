import { createComputing } from './computing'

/** A worker that is there but never answers, and can be made to fail as one that could not be loaded does. */
class SilentWorker extends EventTarget {
  onerror: ((event: { message: string; preventDefault(): void }) => void) | null = null
  isEnded = false
  postMessage(): void {}
  start(): void {}
  terminate(): void {
    this.isEnded = true
  }
  fail(message: string): void {
    this.onerror?.({ message, preventDefault: () => undefined })
  }
}

function silent() {
  const workers: SilentWorker[] = []
  const computing = createComputing(() => {
    const worker = new SilentWorker()
    workers.push(worker)
    return worker as unknown as Worker
  })
  return { workers, computing }
}

const never = () => new Promise<never>(() => undefined)

test('when the thread cannot be loaded, every wait ends with a sentence, and the next try gets a new thread', async () => {
  const { workers, computing } = silent()
  const waits = [computing.run(never), computing.run(never)]
  workers[0]!.fail('')
  for (const wait of waits)
    await expect(wait).rejects.toThrow(/could not be loaded; when the network is back/)
  expect(workers[0]!.isEnded).toBe(true)
  expect(await computing.run(async () => 'done')).toBe('done')
  expect(workers).toHaveLength(2)
})

test('a thread that stops says why; one that gets stuck is given up; one that is stopped ends its work', async () => {
  const { workers, computing } = silent()
  const stopped = computing.run(never)
  workers[0]!.fail('out of memory')
  await expect(stopped).rejects.toThrow(/stopped: out of memory/)
  await expect(computing.run(never, 10)).rejects.toThrow(/was given up/)
  const ended = computing.run(never)
  computing.stop()
  await expect(ended).rejects.toThrow(/it was stopped/)
})

test('it is there before it is needed, once; what the work itself throws comes through', async () => {
  const { workers, computing } = silent()
  computing.prepare()
  computing.prepare()
  expect(workers).toHaveLength(1)
  await expect(computing.run(() => Promise.reject(new RangeError('no notes')))).rejects.toThrow('no notes')
  expect(workers[0]!.isEnded).toBe(false)
})
