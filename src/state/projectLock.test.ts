import { holdProject, withProjectToOneself } from './projectLock'

/** Locks of the Web Locks API (W3C), as far as they are used here: one holder, a queue, taking away, giving up. */
class Locks {
  private readonly held = new Map<string, { steal(): void; isOver: Promise<unknown> }>()

  async request(name: string, ...rest: unknown[]): Promise<unknown> {
    const work = rest.pop() as (lock: { name: string } | null) => unknown
    const { ifAvailable, steal, signal } = (rest[0] ?? {}) as LockOptions
    if (steal) this.held.get(name)?.steal()
    else if (ifAvailable && this.held.has(name)) return work(null)
    while (!steal && this.held.has(name))
      await new Promise((resolve, reject) => {
        const over = () => reject(signal!.reason)
        signal?.addEventListener('abort', over)
        void this.held.get(name)!.isOver.then(resolve)
      })
    let taken: (error: Error) => void = () => {}
    const isTaken = new Promise((_, reject) => {
      taken = reject
    })
    const doing = Promise.race([Promise.resolve(work({ name })), isTaken])
    const own = { steal: () => taken(new DOMException('taken', 'AbortError')), isOver: doing.catch(() => {}) }
    this.held.set(name, own)
    return doing.finally(() => {
      if (this.held.get(name) === own) this.held.delete(name)
    })
  }
}

beforeEach(() => {
  Object.defineProperty(globalThis, 'navigator', { value: { locks: new Locks() }, configurable: true })
})

/** A tab that opens a piece, and what it was told. */
function tab(projectId: string) {
  const told: string[] = []
  const lock = holdProject(projectId, {
    held: () => told.push('held'),
    refused: () => told.push('refused'),
    lost: () => told.push('lost'),
  })
  return { ...lock, told }
}
const soon = () => new Promise((resolve) => setTimeout(resolve, 20))

describe('one tab changes a piece', () => {
  test('the second one reads; each piece is for itself', async () => {
    const [first, second, other] = [tab('a'), tab('a'), tab('b')]
    await soon()
    expect([first.told, second.told, other.told]).toEqual([['held'], ['refused'], ['held']])
  })

  test('whoever takes over has it, the first is told, and reads afresh when the other has had time to save', async () => {
    jest.useFakeTimers({ doNotFake: ['nextTick', 'queueMicrotask', 'setImmediate'] })
    const reload = jest.fn()
    Object.assign(globalThis, { location: { reload } })
    const [first, second] = [tab('a'), tab('a')]
    await jest.advanceTimersByTimeAsync(1)
    second.takeOver()
    await jest.advanceTimersByTimeAsync(1)
    expect([first.told, second.told]).toEqual([['held', 'lost'], ['refused']])
    expect(reload).not.toHaveBeenCalled()
    await jest.advanceTimersByTimeAsync(1500)
    expect(reload).toHaveBeenCalledTimes(1)
    jest.useRealTimers()
  })

  test('a tab that lets go is not told that it has lost', async () => {
    const first = tab('a')
    await soon()
    first.release()
    await soon()
    expect(first.told).toEqual(['held'])
    const next = tab('a')
    await soon()
    expect(next.told).toEqual(['held'])
  })
})

describe('what needs a piece to itself', () => {
  test('is done when nobody has it open, or the tab that had is just going', async () => {
    expect(await withProjectToOneself('a', async () => 7)).toBe(7)
    const going = tab('a')
    await soon()
    setTimeout(going.release, 100)
    expect(await withProjectToOneself('a', async () => 8)).toBe(8)
  })

  test('is refused with a sentence while a tab has it', async () => {
    tab('a')
    await soon()
    await expect(withProjectToOneself('a', async () => 7)).rejects.toThrow('it is open in another tab')
  })

  test('fails with its own error, not with that of the lock', async () => {
    const broken = withProjectToOneself('a', async () => {
      throw new Error('no such piece')
    })
    await expect(broken).rejects.toThrow('no such piece')
  })
})
