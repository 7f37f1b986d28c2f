import fc from 'fast-check'
import { systemAt, xInLine } from './placeOnPage'

const measures = Array.from({ length: 6 }, (_, index) => ({
  index,
  startTicks: index * 40_320,
  lengthTicks: 40_320,
  numerator: 4,
  denominator: 4,
}))
const systems = [
  { from: 0, to: 2 },
  { from: 2, to: 6 },
]

describe('the line of music of a position', () => {
  const page = { measures, systems }

  test('is the one that holds its bar', () => {
    expect(systemAt(page, 0)).toEqual({ bar: 0, systemIndex: 0 })
    expect(systemAt(page, 80_639)).toEqual({ bar: 1, systemIndex: 0 })
    expect(systemAt(page, 80_640)).toEqual({ bar: 2, systemIndex: 1 })
  })

  test('is none before the beginning and past the end', () => {
    expect(systemAt(page, -1)).toBeNull()
    expect(systemAt(page, 6 * 40_320)).toBeNull()
    expect(systemAt({ measures: [], systems: [] }, 0)).toBeNull()
  })
})

describe('the place in a line of music', () => {
  const end = { ticks: 80_640, xPx: 700 }

  test('lies between noteheads in proportion to time', () => {
    const moments = [
      { ticks: 0, xPx: 100 },
      { ticks: 20_160, xPx: 200 },
    ]
    expect(xInLine({ moments }, 0, 0, end)).toBe(100)
    expect(xInLine({ moments }, 5040, 0, end)).toBe(125)
    expect(xInLine({ moments }, 50_400, 0, end)).toBe(450)
  })

  test('before the first notehead, and in a line without one, it does not run off the line', () => {
    expect(xInLine({ moments: [{ ticks: 40_320, xPx: 300 }] }, 10_080, 0, end)).toBe(300)
    expect(xInLine({ moments: [] }, 10_080, 0, end)).toBe(700)
  })

  test('never goes back while time goes on', () => {
    const line = fc
      .uniqueArray(fc.tuple(fc.nat(80_000), fc.nat(690)), { selector: ([ticks]) => ticks, minLength: 1 })
      .map((pairs) => {
        const ticks = pairs.map(([at]) => at).sort((a, b) => a - b)
        const xs = pairs.map(([, x]) => x).sort((a, b) => a - b)
        return { moments: ticks.map((at, index) => ({ ticks: at, xPx: xs[index]! })) }
      })
    fc.assert(
      fc.property(line, fc.nat(80_639), fc.nat(80_639), (drawn, a, b) => {
        const [early, late] = [Math.min(a, b), Math.max(a, b)]
        const x = (ticks: number) => xInLine(drawn, ticks, 0, end)
        return x(early) <= x(late) + 1e-6
      }),
    )
  })
})
