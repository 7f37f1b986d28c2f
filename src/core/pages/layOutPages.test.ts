import fc from 'fast-check'
import { type LineToPlace, layOutPages, type PageRoom } from './layOutPages'

const room: PageRoom = { firstTopPt: 120, topPt: 60, bottomPt: 760, linesToPage: null, turnsAtRests: false }
const lines = (
  count: number,
  heightPt: number,
  change: (index: number) => Partial<LineToPlace> = () => ({}),
) =>
  Array.from({ length: count }, (_, index) => ({
    heightPt,
    endsInRest: false,
    beginsPage: false,
    ...change(index),
  }))
const counts = (given: readonly LineToPlace[], own: PageRoom = room) =>
  layOutPages(given, own).map((page) => page.length)

test('as many lines as fit, fewer under the title, and no more than are wanted', () => {
  expect(counts(lines(14, 100))).toEqual([6, 6, 2])
  expect(counts(lines(14, 100), { ...room, linesToPage: 4 })).toEqual([4, 4, 4, 2])
  expect(counts([])).toEqual([])
})

test('a page begins where somebody wants it', () => {
  expect(counts(lines(6, 100, (index) => ({ beginsPage: index === 2 })))).toEqual([2, 4])
})

test('a page that is turned ends in a rest, unless it would be half empty', () => {
  const resting = (at: number) => lines(13, 100, (index) => ({ endsInRest: index === at }))
  expect(counts(resting(4), { ...room, turnsAtRests: true })).toEqual([5, 6, 2])
  expect(counts(resting(1), { ...room, turnsAtRests: true })).toEqual([6, 6, 1])
})

test('whatever the lines, each is placed once, in order, and none over another or below the page it shares', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.record({
          heightPt: fc.integer({ min: 10, max: 900 }),
          endsInRest: fc.boolean(),
          beginsPage: fc.boolean(),
        }),
        { maxLength: 60 },
      ),
      fc.option(fc.integer({ min: 1, max: 9 }), { nil: null }),
      fc.boolean(),
      (given, linesToPage, turnsAtRests) => {
        const pages = layOutPages(given, { ...room, linesToPage, turnsAtRests })
        expect(pages.flat().map(({ index }) => index)).toEqual(given.map((_, index) => index))
        for (const page of pages)
          for (const [place, { index, topPt }] of page.entries()) {
            const next = page[place + 1]
            if (next) expect(next.topPt).toBeGreaterThanOrEqual(topPt + given[index]!.heightPt)
            if (page.length > 1)
              expect(topPt + given[index]!.heightPt).toBeLessThanOrEqual(room.bottomPt + 1e-6)
          }
      },
    ),
  )
})
