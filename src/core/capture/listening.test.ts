import fc from 'fast-check'
import { Listening, listeningMs } from './listening'

describe('always listening', () => {
  test('gives back what was played from the first note on, once', () => {
    const listening = new Listening()
    listening.add('A', 1000, 0xb0, 64, 127)
    listening.add('A', 2000, 0x90, 60, 90)
    listening.add('A', 2500, 0x80, 60, 64)
    expect(listening.noteCount).toBe(1)
    const { events } = listening.take()
    expect([...events.timesMs]).toEqual([2000, 2500])
    expect(events.portIds).toEqual(['A'])
    expect(listening.noteCount).toBe(0)
    expect(listening.take().events.count).toBe(0)
  })

  test('for any playing, keeps at least the last half hour and counts its notes', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 5 * 60_000 }), { minLength: 1, maxLength: 60 }),
        (gapsMs) => {
          const listening = new Listening()
          const playedMs: number[] = []
          let nowMs = 1_000_000
          for (const gap of gapsMs) {
            nowMs += gap
            playedMs.push(nowMs)
            listening.add('A', nowMs, 0x90, 60, 80)
          }
          const kept = listening.noteCount
          const { events } = listening.take()
          expect(events.count).toBe(kept)
          expect([...events.timesMs]).toEqual(playedMs.slice(-events.count))
          for (const timeMs of playedMs)
            if (nowMs - timeMs < listeningMs) expect(events.timesMs).toContain(timeMs)
        },
      ),
    )
  })
})
