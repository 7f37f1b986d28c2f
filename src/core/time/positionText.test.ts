import fc from 'fast-check'
import { MeterMap } from './meterMap'
import { parsePosition, positionText } from './positionText'

const meterMap = new MeterMap([
  { tick: 0, numerator: 4, denominator: 4 },
  { tick: 80_640, numerator: 6, denominator: 8 },
])

test('a place that is read as it is written is the same place, to a hundredth of a quarter', () => {
  fc.assert(
    fc.property(fc.nat(2_000_000), (tick) => {
      const read = parsePosition(positionText(meterMap, tick), meterMap)!
      expect(tick - read).toBeGreaterThanOrEqual(0)
      expect(tick - read).toBeLessThan(102)
    }),
  )
})

test.each([
  ['2', 40_320],
  ['2 3', 60_480],
  ['2.3.50', 65_520],
  ['3 6', 105_840],
])('%s is at %i', (text, tick) => expect(parsePosition(text, meterMap)).toBe(tick))

test.each(['', 'bar', '0', '1 5', '3 7', '1 2 3 4', '-1'])('%j is no place', (text) =>
  expect(parsePosition(text, meterMap)).toBeNull(),
)
