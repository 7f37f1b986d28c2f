import fc from 'fast-check'
import type { HeardNote } from '../pitch/readLine'
import { TempoMap } from '../time/tempoMap'
import { TICKS_PER_QUARTER } from '../time/units'
import { evenlyTold } from './evenlyTold'

const heard = (onsetMs: number, durationMs: number): HeardNote => ({
  onsetMs,
  durationMs,
  key: 60,
  velocity: 80,
  confidence: 1,
})

describe('notes that were read, told at one tempo', () => {
  test('at a tempo that doubles in the middle, the second half is told half as fast', () => {
    const map = new TempoMap([
      { tick: 0, tempoBpm: 60 },
      { tick: 4 * TICKS_PER_QUARTER, tempoBpm: 120 },
    ])
    const told = evenlyTold([heard(1000, 500), heard(4000, 1000)], (ms) => map.ticksAt(ms), 0, 60)
    expect(told.map(({ onsetMs, durationMs }) => [onsetMs, durationMs])).toEqual([
      [1000, 500],
      [4000, 2000],
    ])
  })

  test('what ended before the bar line is left out, what rings across it begins there', () => {
    const ticksAt = (ms: number) => (ms / 1000) * TICKS_PER_QUARTER
    const told = evenlyTold([heard(0, 900), heard(500, 1000)], ticksAt, TICKS_PER_QUARTER, 120)
    expect(told.map(({ onsetMs, durationMs }) => [onsetMs, durationMs])).toEqual([[0, 250]])
  })

  test('whatever the tempi: each note lies where it was played, once it is counted in beats', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 20, max: 300 }), { minLength: 1, maxLength: 6 }),
        fc.array(fc.tuple(fc.integer({ min: 0, max: 60_000 }), fc.integer({ min: 20, max: 3000 })), {
          maxLength: 30,
        }),
        fc.integer({ min: 20, max: 300 }),
        (tempi, played, tempoBpm) => {
          const map = new TempoMap(
            tempi.map((tempo, index) => ({ tick: index * 3 * TICKS_PER_QUARTER, tempoBpm: tempo })),
          )
          const ticksAt = (ms: number) => map.ticksAt(ms)
          const told = evenlyTold(
            played.map(([onsetMs, durationMs]) => heard(onsetMs, durationMs)),
            ticksAt,
            0,
            tempoBpm,
          )
          expect(told.length).toBe(played.length)
          for (const [index, [onsetMs, durationMs]] of played.entries()) {
            const ticksOf = (ms: number) => ((ms * tempoBpm) / 60_000) * TICKS_PER_QUARTER
            expect(ticksOf(told[index]!.onsetMs)).toBeCloseTo(ticksAt(onsetMs), 3)
            expect(ticksOf(told[index]!.onsetMs + told[index]!.durationMs)).toBeCloseTo(
              ticksAt(onsetMs + durationMs),
              3,
            )
          }
        },
      ),
    )
  })
})
