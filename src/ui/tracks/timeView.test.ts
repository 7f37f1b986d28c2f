import fc from 'fast-check'
import { closestZoom, furthestZoom, scrolled, ticksAtX, xOf, zoomAround } from './timeView'

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
