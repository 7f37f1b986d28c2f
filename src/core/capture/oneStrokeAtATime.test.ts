import fc from 'fast-check'
import { oneStrokeAtATime } from './oneStrokeAtATime'
import type { PerformedMessage } from './performer'

const on = (timeMs: number, key: number): PerformedMessage => ({ timeMs, bytes: [0x90, key, 80] })
const off = (timeMs: number, key: number): PerformedMessage => ({ timeMs, bytes: [0x80, key, 64] })

test('a key that is struck again while it is down comes up first, and rings until its last release', () => {
  expect(
    oneStrokeAtATime([on(0, 60), on(50, 60), on(60, 62), off(80, 60), off(120, 60), off(130, 62)]),
  ).toEqual([on(0, 60), off(50, 60), on(50, 60), on(60, 62), off(120, 60), off(130, 62)])
})

test('whatever comes: every stroke is there, each is released once before the next, nothing else is released', () => {
  const message = fc.record({
    timeMs: fc.nat(1000),
    bytes: fc.tuple(fc.constantFrom(0x90, 0x80, 0x91, 0x81, 0xb0), fc.constantFrom(60, 61), fc.nat(2)),
  })
  fc.assert(
    fc.property(fc.array(message, { maxLength: 60 }), (some) => {
      const given = [...some].sort((a, b) => a.timeMs - b.timeMs)
      const played = oneStrokeAtATime(given)
      const strokesOf = (all: readonly PerformedMessage[]) =>
        all.filter(({ bytes }) => (bytes[0] & 0xf0) === 0x90 && bytes[2] > 0)
      expect(strokesOf(played)).toEqual(strokesOf(given))
      const down = new Set<string>()
      let beforeMs = 0
      for (const { timeMs, bytes } of played) {
        expect(timeMs).toBeGreaterThanOrEqual(beforeMs)
        beforeMs = timeMs
        const [status, key, velocity] = bytes
        const address = `${status & 0x0f} ${key}`
        if ((status & 0xf0) === 0xb0) continue
        const isStroke = (status & 0xf0) === 0x90 && velocity > 0
        expect(down.has(address)).toBe(!isStroke)
        if (isStroke) down.add(address)
        else down.delete(address)
      }
    }),
  )
})
