import { everythingStored, leaving, storesBy, whenLeft } from './leaving'

/** A promise that is settled from outside. */
function pending() {
  let settle = { resolve: () => {}, reject: (_: Error) => {} }
  const promise = new Promise<void>((resolve, reject) => {
    settle = { resolve, reject }
  })
  return { promise, ...settle }
}

/** Whether something is over by now. */
async function isOver(promise: Promise<unknown>): Promise<boolean> {
  let over = false
  void promise.then(() => {
    over = true
  })
  await new Promise((resolve) => setTimeout(resolve, 5))
  return over
}

describe('a session that closes', () => {
  test('is waited for by whoever opens the piece again or lists all of them, and by nobody else', async () => {
    const closing = pending()
    leaving('a', closing.promise)
    const [again, list, other] = [whenLeft('a'), whenLeft(), whenLeft('b')]
    expect([await isOver(again), await isOver(list), await isOver(other)]).toEqual([false, false, true])
    closing.resolve()
    expect([await isOver(again), await isOver(list)]).toEqual([true, true])
  })

  test('and fails holds nobody up', async () => {
    const closing = pending()
    closing.promise.catch(() => {})
    leaving('a', closing.promise)
    const again = whenLeft('a')
    again.catch(() => {})
    closing.reject(new Error('full'))
    expect(await isOver(again)).toBe(true)
  })

  test('twice in a row is waited for both times', async () => {
    const [first, second] = [pending(), pending()]
    leaving('a', first.promise)
    leaving('a', second.promise)
    first.resolve()
    await first.promise
    const again = whenLeft('a')
    expect(await isOver(again)).toBe(false)
    second.resolve()
    expect(await isOver(again)).toBe(true)
  })
})

test('everything is stored when each open piece has stored what it has, also where one of them could not', async () => {
  const [one, other] = [pending(), pending()]
  const ends = [one, other].map(({ promise }) => storesBy({ store: () => promise, isRecording: () => false }))
  const stored = everythingStored()
  one.reject(new Error('full'))
  expect(await isOver(stored)).toBe(false)
  other.resolve()
  expect(await isOver(stored)).toBe(true)
  for (const end of ends) end()
  expect(await isOver(everythingStored())).toBe(true)
})
