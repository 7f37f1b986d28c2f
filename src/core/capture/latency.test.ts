import { chance } from '../effects/chance'
import { fewestStrokes, measureLatency } from './latency'

const clicksMs = Array.from({ length: 20 }, (_, index) => 1000 + index * 500)

describe('measuring how late a source is', () => {
  test('the median of strokes that are 23 ms late, with some unevenness, is 23 ms', () => {
    const strokes = clicksMs.map((click, index) => click + 23 + (chance(1, index, 0) - 0.5) * 10)
    const measured = measureLatency(clicksMs, strokes)!
    expect(measured.medianMs).toBeGreaterThan(21)
    expect(measured.medianMs).toBeLessThan(25)
    expect(measured.spreadMs).toBeLessThan(10)
    expect(measured.offsetsMs).toHaveLength(20)
  })

  test('single slips and strokes between the clicks do not move it', () => {
    const strokes = [...clicksMs.map((click) => click - 12), 1240, 5740, 9999]
    strokes[3] = clicksMs[3]! + 180
    const measured = measureLatency(clicksMs, strokes)!
    expect(measured.medianMs).toBe(-12)
    expect(measured.leftOut).toBe(3)
  })

  test('of two strokes at one click the nearer counts', () => {
    const strokes = clicksMs.flatMap((click) => [click + 5, click + 90])
    expect(measureLatency(clicksMs, strokes)).toMatchObject({ medianMs: 5, spreadMs: 0, leftOut: 20 })
  })

  test('quartiles of 1 to 8 (Hyndman and Fan 1996, type 7): 2.75 and 6.25', () => {
    const strokes = clicksMs.slice(0, 8).map((click, index) => click + index + 1)
    expect(measureLatency(clicksMs, strokes)).toMatchObject({ medianMs: 4.5, spreadMs: 3.5 })
  })

  test('too few strokes say nothing', () => {
    expect(measureLatency(clicksMs, clicksMs.slice(0, fewestStrokes - 1))).toBeNull()
    expect(measureLatency([], [])).toBeNull()
    expect(measureLatency([1000], [1000])).toBeNull()
  })
})
