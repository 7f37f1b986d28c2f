import fc from 'fast-check'
import { beatUnitTicks, MeterMap } from './meterMap'
import { TempoMap } from './tempoMap'
import { rescaleTicks } from './units'

const tempos = fc.array(
  fc.record({ tick: fc.integer({ min: 0, max: 2_000_000 }), tempoBpm: fc.integer({ min: 20, max: 300 }) }),
  { maxLength: 12 },
)

describe('tempo map', () => {
  test('at 120 bpm a quarter lasts 500 ms', () => {
    const map = new TempoMap([{ tick: 0, tempoBpm: 120 }])
    expect(map.msAt(10_080)).toBe(500)
    expect(map.ticksAt(500)).toBe(10_080)
    expect(map.msAt(-10_080)).toBe(-500)
  })

  test('120 bpm where no tempo is set (Standard MIDI Files 1.0)', () => {
    expect(new TempoMap([]).msAt(10_080)).toBe(500)
  })

  test('a change takes effect where it is', () => {
    const map = new TempoMap([
      { tick: 0, tempoBpm: 60 },
      { tick: 10_080, tempoBpm: 120 },
    ])
    expect(map.msAt(20_160)).toBeCloseTo(1500, 9)
    expect(map.tempoAt(10_079)).toBeCloseTo(60, 9)
    expect(map.tempoAt(10_080)).toBeCloseTo(120, 9)
  })

  test('ticks to time and back, for any tempi', () => {
    fc.assert(
      fc.property(tempos, fc.integer({ min: -100_000, max: 3_000_000 }), (changes, tick) => {
        const map = new TempoMap(changes)
        expect(Math.abs(map.ticksAt(map.msAt(tick)) - tick)).toBeLessThan(1e-3)
      }),
    )
  })

  test('time never runs backwards', () => {
    fc.assert(
      fc.property(tempos, fc.nat(2_000_000), fc.integer({ min: 1, max: 50_000 }), (changes, tick, step) => {
        const map = new TempoMap(changes)
        expect(map.msAt(tick + step)).toBeGreaterThan(map.msAt(tick))
      }),
    )
  })
})

const meters = fc.array(
  fc.record({
    tick: fc.integer({ min: 0, max: 1_000_000 }),
    numerator: fc.integer({ min: 1, max: 13 }),
    denominator: fc.constantFrom(2, 4, 8, 16),
  }),
  { maxLength: 8 },
)

describe('meter map', () => {
  test('bars and beats in 4/4, 3/4 and 6/8', () => {
    const map = new MeterMap([
      { tick: 0, numerator: 4, denominator: 4 },
      { tick: 80_640, numerator: 3, denominator: 4 },
    ])
    expect(map.position(0)).toEqual({ bar: 1, beat: 1, ticks: 0 })
    expect(map.position(50_400)).toEqual({ bar: 2, beat: 2, ticks: 0 })
    expect(map.position(80_640 + 30_240)).toEqual({ bar: 4, beat: 1, ticks: 0 })
    expect(beatUnitTicks({ numerator: 6, denominator: 8 })).toBe(15_120)
    expect(beatUnitTicks({ numerator: 3, denominator: 8 })).toBe(5040)
  })

  test('a change inside a bar waits for the bar line', () => {
    const map = new MeterMap([
      { tick: 0, numerator: 4, denominator: 4 },
      { tick: 50_000, numerator: 3, denominator: 4 },
    ])
    expect(map.measure(2)).toMatchObject({ startTicks: 80_640, numerator: 3 })
  })

  test('measures follow each other without gap, and hold their ticks', () => {
    fc.assert(
      fc.property(meters, fc.nat(1_500_000), (changes, tick) => {
        const map = new MeterMap(changes)
        const measures = map.measuresUntil(tick + 1)
        for (let i = 1; i < measures.length; i++) {
          expect(measures[i]!.startTicks).toBe(measures[i - 1]!.startTicks + measures[i - 1]!.lengthTicks)
          expect(measures[i]!.index).toBe(i)
        }
        const own = map.measureAt(tick)
        expect(tick).toBeGreaterThanOrEqual(own.startTicks)
        expect(tick).toBeLessThan(own.startTicks + own.lengthTicks)
        expect(map.measure(own.index)).toEqual(own)
      }),
    )
  })
})

test('positions are scaled to the nearest tick', () => {
  expect(rescaleTicks(480, 480, 10_080)).toBe(10_080)
  expect(rescaleTicks(21, 10_080, 480)).toBe(1)
})
