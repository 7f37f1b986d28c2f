import { whenPageIsFree } from './quiet'

/** A thread that is busy until a moment: no timer comes before. */
function thread(busyUntilMs: number, areSlowed = false) {
  let nowMs = 0
  const waiting: { atMs: number; work: () => void }[] = []
  const timers = {
    nowMs: () => nowMs,
    after: (delayMs: number, work: () => void) => void waiting.push({ atMs: nowMs + delayMs, work }),
    areSlowed: () => areSlowed,
  }
  const run = () => {
    while (waiting.length > 0) {
      const next = waiting.shift()!
      nowMs = Math.max(nowMs, next.atMs, next.atMs < busyUntilMs ? busyUntilMs : 0)
      next.work()
    }
  }
  return { timers, run, now: () => nowMs }
}

test('a free page is free at once; a busy one when it has caught up', async () => {
  for (const [busyUntilMs, from, to] of [
    [0, 40, 100],
    [900, 940, 1000],
  ] as const) {
    const { timers, run, now } = thread(busyUntilMs)
    const free = whenPageIsFree(timers)
    run()
    await free
    expect(now()).toBeGreaterThanOrEqual(from)
    expect(now()).toBeLessThanOrEqual(to)
  }
})

test('a page that never gets free is not waited for without end, nor one that nobody sees', async () => {
  const late = (() => {
    let nowMs = 0
    const waiting: (() => void)[] = []
    return {
      timers: {
        nowMs: () => nowMs,
        after: (delayMs: number, work: () => void) =>
          void waiting.push(() => {
            nowMs += delayMs + 100
            work()
          }),
        areSlowed: () => false,
      },
      run: () => {
        while (waiting.length > 0) waiting.shift()!()
      },
      now: () => nowMs,
    }
  })()
  const free = whenPageIsFree(late.timers, 2000)
  late.run()
  await free
  expect(late.now()).toBeLessThan(2200)
  const unseen = thread(5000, true)
  const alsoFree = whenPageIsFree(unseen.timers)
  unseen.run()
  await alsoFree
  expect(unseen.now()).toBeLessThan(5100)
})
