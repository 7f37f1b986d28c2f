import fc from 'fast-check'
import { TempoMap } from '../time/tempoMap'
import { TICKS_PER_QUARTER } from '../time/units'
import { straightPieces } from './straightPieces'

describe('a sound in pieces along which the tempo does not turn', () => {
  test('at one tempo it is one piece; of nothing, none', () => {
    const map = new TempoMap([{ tick: 0, tempoBpm: 100 }])
    const ticksAt = (ms: number) => map.ticksAt(ms)
    expect(straightPieces(500, 100, 10, ticksAt)).toEqual([
      { first: 0, steps: 100, startTicks: ticksAt(500), endTicks: ticksAt(1500) },
    ])
    expect(straightPieces(500, 0, 10, ticksAt)).toEqual([])
  })

  test('whatever the tempi: all steps once, in order, each where it was played', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 20, max: 300 }), { minLength: 1, maxLength: 8 }),
        fc.integer({ min: 0, max: 5000 }),
        fc.integer({ min: 1, max: 130 }),
        (tempi, startMs, steps) => {
          const map = new TempoMap(
            tempi.map((tempoBpm, index) => ({ tick: index * TICKS_PER_QUARTER, tempoBpm })),
          )
          const ticksAt = (ms: number) => map.ticksAt(ms)
          let next = 0
          for (const piece of straightPieces(startMs, steps, 10, ticksAt)) {
            expect(piece.first).toBe(next)
            next += piece.steps
            for (let step = 0; step <= piece.steps; step++) {
              const drawn = piece.startTicks + (step / piece.steps) * (piece.endTicks - piece.startTicks)
              const played = ticksAt(startMs + (piece.first + step) * 10)
              expect(Math.abs(drawn - played)).toBeLessThan(TICKS_PER_QUARTER / 20)
            }
          }
          expect(next).toBe(steps)
        },
      ),
    )
  })
})
