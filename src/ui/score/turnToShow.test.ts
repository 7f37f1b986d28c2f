import { turnToShow } from './turnToShow'

test('the first line is shown at once, the next ones wait for each other', async () => {
  jest.useFakeTimers({ now: 1000 })
  const shown: number[] = []
  for (const line of [0, 1, 2]) void turnToShow().then(() => shown.push(line))
  await jest.advanceTimersByTimeAsync(1)
  expect(shown).toEqual([0])
  await jest.advanceTimersByTimeAsync(40)
  expect(shown).toEqual([0, 1])
  await jest.advanceTimersByTimeAsync(1000)
  expect(shown).toEqual([0, 1, 2])
  // After a pause nobody waits.
  void turnToShow().then(() => shown.push(3))
  await jest.advanceTimersByTimeAsync(0)
  expect(shown).toEqual([0, 1, 2, 3])
  jest.useRealTimers()
})
