import fc from 'fast-check'
import type { ControllerEvent } from '../event/note'
import { curveEvents, curvesOf, curveTitle, drawCurve, eraseCurve } from './curves'

const event = (tick: number, number: number, value: number): ControllerEvent => ({
  tick,
  channel: 1,
  kind: 'controller',
  number,
  value,
})
const breath = { kind: 'controller', number: 2 } as const

describe('curves', () => {
  test('are found, the fullest first, under their names', () => {
    const found = curvesOf([event(0, 64, 127), event(5, 2, 10), event(9, 2, 20)])
    expect(found.map(curveTitle)).toEqual(['breath (2)', 'sustain pedal (64)'])
    expect(curveTitle({ kind: 'bend', number: 0 })).toBe('pitch bend')
    expect(curveTitle({ kind: 'controller', number: 99 })).toBe('controller 99')
  })

  test('a drawn line replaces what lay under it, and nothing else', () => {
    const before = [event(0, 2, 5), event(500, 2, 50), event(500, 64, 127), event(3000, 2, 9)]
    const drawn = drawCurve(before, breath, 1, { tick: 1000, value: 100 }, { tick: 160, value: 0 })
    expect(curveEvents(drawn, breath).map(({ tick, value }) => [tick, value])).toEqual([
      [0, 5],
      [160, 0],
      [370, 25],
      [580, 50],
      [790, 75],
      [1000, 100],
      [3000, 9],
    ])
    expect(drawn.filter((each) => each.number === 64)).toHaveLength(1)
  })

  test('a press without a drag is one point', () => {
    expect(drawCurve([], breath, 3, { tick: 7, value: 200 }, { tick: 7, value: 200 })).toEqual([
      { tick: 7, channel: 3, kind: 'controller', number: 2, value: 127 },
    ])
  })

  test('for any drawing: in order, in range, others untouched', () => {
    const point = fc.record({
      tick: fc.integer({ min: 0, max: 50_000 }),
      value: fc.integer({ min: -50, max: 200 }),
    })
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(50_000), fc.nat(127))), point, point, (others, from, to) => {
        const before = others.map(([tick, value]) => event(tick, 11, value)).sort((a, b) => a.tick - b.tick)
        const drawn = drawCurve(before, breath, 1, from, to)
        expect(curveEvents(drawn, { kind: 'controller', number: 11 })).toEqual(before)
        for (const [index, each] of drawn.entries()) {
          if (index > 0) expect(each.tick).toBeGreaterThanOrEqual(drawn[index - 1]!.tick)
          expect(each.value).toBeGreaterThanOrEqual(0)
          expect(each.value).toBeLessThanOrEqual(127)
        }
      }),
    )
  })

  test('erasing takes out what lies in the stretch', () => {
    const left = eraseCurve(
      [event(0, 2, 1), event(10, 2, 2), event(10, 64, 3), event(20, 2, 4)],
      breath,
      5,
      20,
    )
    expect(left.map(({ tick, number }) => [tick, number])).toEqual([
      [0, 2],
      [10, 64],
      [20, 2],
    ])
  })
})
