import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads'
import { Chanceful } from './chanceful'
import { targets } from './targets'

/** An input that takes more time of a processor than this hangs; a machine that stands still for so long says nothing of an input. */
const longestMs = 10_000
const mostMemoryMb = 1500
/** Room for the input that is at work, so that it is known when nothing comes back. */
const inputRoom = 4 * 1024 * 1024

interface Order {
  readonly inputs: number
  readonly seed: number
  readonly only: string | null
  readonly shared: SharedArrayBuffer
}

interface Result {
  readonly target: string
  readonly inputs: number
  /** Refused with a named error. */
  readonly refused: number
  readonly slowestMs: number
  readonly faults: readonly { readonly input: string; readonly error: string }[]
}

/** Head of the shared memory: number of the input that is at work, its target, its length. */
const head = 3

function work({ inputs, seed, only, shared }: Order): void {
  const numbers = new Int32Array(shared, 0, head)
  const room = new Uint8Array(shared, head * 4)
  for (const [index, target] of targets.entries()) {
    if (only && target.name !== only) continue
    const by = new Chanceful(seed * 1000 + index)
    const faults: { input: string; error: string }[] = []
    let [refused, slowestMs] = [0, 0]
    for (let count = 0; count < inputs; count++) {
      const input = target.make(by)
      room.set(input.subarray(0, room.length))
      Atomics.store(numbers, 1, index)
      Atomics.store(numbers, 2, Math.min(input.length, room.length))
      Atomics.add(numbers, 0, 1)
      const beganMs = performance.now()
      try {
        target.take(input)
      } catch (error) {
        if (target.named.some((kind) => error instanceof kind)) refused++
        else if (faults.length < 10)
          faults.push({
            input: Buffer.from(input.subarray(0, 600)).toString('hex'),
            error: error instanceof Error ? (error.stack ?? error.message) : String(error),
          })
      }
      slowestMs = Math.max(slowestMs, performance.now() - beganMs)
    }
    parentPort!.postMessage({ target: target.name, inputs, refused, slowestMs, faults } satisfies Result)
  }
}

function main(): void {
  const option = (name: string) =>
    process.argv.find((word) => word.startsWith(`--${name}=`))?.slice(name.length + 3)
  const order: Order = {
    inputs: Number(option('inputs') ?? 5000),
    seed: Number(option('seed') ?? Date.now() % 1_000_000),
    only: option('only') ?? null,
    shared: new SharedArrayBuffer(head * 4 + inputRoom),
  }
  process.stdout.write(`${order.inputs.toLocaleString('en')} inputs of each kind, seed ${order.seed}\n`)
  const thread = new Worker(new URL(import.meta.url), {
    workerData: order,
    resourceLimits: { maxOldGenerationSizeMb: mostMemoryMb },
  })
  const numbers = new Int32Array(order.shared, 0, head)
  let isGood = true
  const fail = (words: string) => {
    isGood = false
    process.stdout.write(`✗ ${words}\n`)
  }
  const current = () => {
    const length = Math.min(600, Atomics.load(numbers, 2))
    const bytes = Buffer.from(new Uint8Array(order.shared, head * 4, length))
    return `${targets[Atomics.load(numbers, 1)]!.name}, input ${bytes.toString('hex')}`
  }
  const workedMs = () => process.cpuUsage().user / 1000
  let [seen, seenMs] = [-1, workedMs()]
  const watch = setInterval(() => {
    const count = Atomics.load(numbers, 0)
    if (count !== seen) {
      seen = count
      seenMs = workedMs()
    } else if (count > 0 && workedMs() - seenMs > longestMs) {
      fail(`no end after ${longestMs / 1000} s of work: ${current()}`)
      void thread.terminate()
    }
  }, 500)
  thread.on('message', ({ target, inputs, refused, slowestMs, faults }: Result) => {
    for (const { input, error } of faults) fail(`${target}: ${error}\n  input ${input}`)
    const taken = inputs - refused - faults.length
    if (inputs >= 100 && taken < inputs / 2)
      fail(`${target}: only ${taken} of ${inputs} got past its checks, so that little was tried`)
    process.stdout.write(
      `${faults.length === 0 ? '✓' : '✗'} ${target}: ${taken.toLocaleString('en')} taken, ${refused.toLocaleString('en')} refused with a reason, ${faults.length} faults, slowest ${slowestMs.toFixed(0)} ms\n`,
    )
  })
  thread.on('error', (error: Error) => fail(`${error.message}: ${current()}`))
  thread.on('exit', () => {
    clearInterval(watch)
    process.exit(isGood ? 0 : 1)
  })
}

if (isMainThread) main()
else work(workerData as Order)
