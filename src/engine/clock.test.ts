import fc from 'fast-check'
import type * as Clock from './clock'

/** The clock of a thread with a name. */
function clockNamed(name: string): typeof Clock {
  Object.assign(globalThis, { name })
  let clock!: typeof Clock
  jest.isolateModules(() => {
    clock = require('./clock')
  })
  return clock
}

const moment = fc.double({ min: 0, max: 1e9, noNaN: true })

test.each(['', 'engine', 'clock × 0.5 since 3', 'clock × 6'])(
  'a thread named “%s” keeps the machine’s time',
  (name) => {
    const clock = clockNamed(name)
    expect(clock.clockTimes).toBe(1)
    expect(clock.epochAt(1234.5)).toBe(performance.timeOrigin + 1234.5)
    expect(clock.timeStampAt(performance.timeOrigin + 10)).toBeCloseTo(10, 3)
  },
)

test('a fast clock: moments, stamps and audio time keep their distances, so many times as large', () => {
  const sinceMs = Math.round(performance.timeOrigin) - 60_000
  const clock = clockNamed(`clock × 6 since ${sinceMs}`)
  expect(clock.clockTimes).toBe(6)
  fc.assert(
    fc.property(moment, moment, (one, other) => {
      expect(clock.epochAt(other) - clock.epochAt(one)).toBeCloseTo(6 * (other - one), 1)
      expect(clock.timeStampAt(clock.epochAt(one))).toBeCloseTo(one, 2)
      const sample = { contextSeconds: 3, epochMs: clock.epochAt(one) }
      expect(clock.contextSecondsAt(sample, clock.epochAt(other))).toBeCloseTo(3 + (other - one) / 1000, 3)
    }),
  )
})

test('threads with other time origins agree', () => {
  const sinceMs = 1_790_000_000_000
  const here = clockNamed(`clock × 6 since ${sinceMs}`)
  // The same moment of the machine, told by a thread that began at another time.
  const machineMs = performance.timeOrigin + 5000
  expect(here.epochAt(machineMs - performance.timeOrigin)).toBeCloseTo(sinceMs + (machineMs - sinceMs) * 6, 1)
})
