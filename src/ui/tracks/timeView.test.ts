import fc from 'fast-check'
import { closestZoom, furthestZoom, pinched, scrolled, ticksAtX, xOf, zoomAround } from './timeView'

const views = fc.record({
  startTicks: fc.integer({ min: 0, max: 10_000_000 }),
  pixelsPerQuarter: fc.double({ min: furthestZoom, max: closestZoom, noNaN: true }),
})

test('a place and its point belong together', () => {
  fc.assert(
    fc.property(views, fc.nat(3000), (view, x) => {
      expect(Math.abs(xOf(view, ticksAtX(view, x)) - x)).toBeLessThan(0.01)
    }),
  )
})

test('zooming keeps the place under the pointer, unless that would show what is before the beginning', () => {
  fc.assert(
    fc.property(views, fc.nat(1280), fc.double({ min: 0.2, max: 5, noNaN: true }), (view, x, factor) => {
      const zoomed = zoomAround(view, x, factor)
      expect(zoomed.startTicks).toBeGreaterThanOrEqual(0)
      expect(zoomed.pixelsPerQuarter).toBeGreaterThanOrEqual(furthestZoom)
      expect(zoomed.pixelsPerQuarter).toBeLessThanOrEqual(closestZoom)
      if (zoomed.startTicks > 0) expect(Math.abs(xOf(zoomed, ticksAtX(view, x)) - x)).toBeLessThan(0.01)
    }),
  )
})

test('scrolling stops at the beginning', () => {
  const view = { startTicks: 10_080, pixelsPerQuarter: 100 }
  expect(scrolled(view, 50).startTicks).toBe(15_120)
  expect(scrolled(view, -500).startTicks).toBe(0)
})

test('what lies between two fingers stays between them, unless that would show what is before the beginning', () => {
  const pair = fc.record({
    middle: fc.double({ min: 0, max: 1200, noNaN: true }),
    apart: fc.double({ min: 20, max: 900, noNaN: true }),
  })
  fc.assert(
    fc.property(views, pair, pair, (view, from, to) => {
      const moved = pinched(view, from, to)
      expect(moved.startTicks).toBeGreaterThanOrEqual(0)
      if (moved.startTicks > 0)
        expect(Math.abs(xOf(moved, ticksAtX(view, from.middle)) - to.middle)).toBeLessThan(0.01)
    }),
  )
})
