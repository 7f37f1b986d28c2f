import fc from 'fast-check'
import { firstIndex } from './firstIndex'

test('the same index as looking at each one after the other, from any beginning', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 20 })),
      fc.integer({ min: -1, max: 21 }),
      (values, place) => {
        const sorted = values.sort((a, b) => a - b)
        const looked = sorted.findIndex((value) => value >= place)
        const expected = looked === -1 ? sorted.length : looked
        expect(firstIndex(sorted.length, (index) => sorted[index]! >= place)).toBe(expected)
        const from = Math.floor(expected / 2)
        expect(firstIndex(sorted.length, (index) => sorted[index]! >= place, from)).toBe(expected)
      },
    ),
  )
})
