import { noPlace } from '@/core/sound/keptSound'
import { paintHeardPitch } from './heardPitch'
import type { RollGeometry } from './rollGeometry'

/** A second of one pitch from tick 0 on, ten ticks to a step. */
const heard = (places: readonly number[]) => ({
  startTicks: 0,
  ticksPerStep: 10,
  places: Int16Array.from(places),
  confidences: Uint8Array.from(places, () => 255),
})

/** Lines that are drawn, from and to. */
function linesOf(places: readonly number[], pixelsPerTick: number, { isKit = false, left = 0 } = {}) {
  const lines: [fromX: number, fromY: number, toX: number, toY: number][] = []
  let from: [number, number] = [0, 0]
  const context = {
    beginPath() {},
    stroke() {},
    moveTo: (x: number, y: number) => {
      from = [x, y]
    },
    lineTo: (x: number, y: number) => lines.push([...from, x, y]),
  } as unknown as CanvasRenderingContext2D
  const geometry = {
    xOf: (ticks: number) => ticks * pixelsPerTick,
    yOf: (key: number) => 1000 - key * 10,
    rowHeight: 10,
    left,
    width: 500,
    isKit,
  } as unknown as RollGeometry
  paintHeardPitch(context, geometry, [heard(places)])
  return lines
}

const steady = Array.from({ length: 100 }, () => 6000)

describe('the pitch that was heard, over the notes', () => {
  test('is a line from step to step, in the middle of its key', () => {
    const lines = linesOf(steady, 1)
    expect(lines).toHaveLength(99)
    expect(lines[0]).toEqual([0, 405, 10, 405])
    expect(lines.at(-1)).toEqual([980, 405, 990, 405])
  })

  test('is broken where no pitch was heard, and where it leaps', () => {
    const places = [6000, 6010, noPlace, 6010, 6000, 6700, 6700]
    expect(linesOf(places, 1).map(([fromX]) => fromX)).toEqual([0, 30, 50])
  })

  test('from far away it has no more lines than pixels', () => {
    for (const pixelsPerTick of [0.1, 0.03, 0.01]) {
      const pixels = steady.length * 10 * pixelsPerTick
      const lines = linesOf(steady, pixelsPerTick)
      expect(lines.length).toBeLessThanOrEqual(pixels + 1)
      expect(lines.length).toBeGreaterThan(pixels / 3)
    }
  })

  test('is not drawn out of sight, nor over drums, whose keys are no pitches', () => {
    expect(linesOf(steady, 1, { left: 2000 })).toEqual([])
    expect(linesOf(steady, 1, { isKit: true })).toEqual([])
  })
})
