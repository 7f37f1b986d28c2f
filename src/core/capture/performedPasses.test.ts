import { TempoMap } from '../time/tempoMap'
import { TICKS_PER_QUARTER } from '../time/units'
import { alongTheClick, performedPasses } from './performedPasses'

const tempoMap = new TempoMap([{ tick: 0, tempoBpm: 60 }])
const part = [0, 1, 2, 3].map((quarter) => ({
  onsetTicks: quarter * TICKS_PER_QUARTER,
  durationTicks: TICKS_PER_QUARTER,
  key: 60 + quarter,
  velocity: 80,
}))
const played = (notes: typeof part, fromTicks: number, pass: number) =>
  notes.map(({ onsetTicks, key }) => ({
    key,
    pass,
    timeMs: tempoMap.msAt(onsetTicks) - tempoMap.msAt(fromTicks),
  }))

describe('what stand-ins play', () => {
  test('without a loop, the part once from where it begins', () => {
    const all = performedPasses(part, tempoMap, TICKS_PER_QUARTER, null, (notes, from, pass) =>
      played([...notes], from, pass),
    )
    expect(all.map(({ key, pass }) => [key, pass])).toEqual(part.map(({ key }) => [key, 0]))
    expect(all.map(({ timeMs }) => timeMs)).toEqual([-1000, 0, 1000, 2000])
  })

  test('in a loop, only what lies in it, again in each pass and later by one each time', () => {
    const loop = { startTicks: TICKS_PER_QUARTER, endTicks: 3 * TICKS_PER_QUARTER }
    const all = performedPasses(part, tempoMap, 0, loop, (notes, from, pass) =>
      played([...notes], from, pass),
    )
    expect(all.slice(0, 5).map(({ key, pass, timeMs }) => [key, pass, timeMs])).toEqual([
      [61, 0, 0],
      [62, 0, 1000],
      [61, 1, 2000],
      [62, 1, 3000],
      [61, 2, 4000],
    ])
  })

  test('along the click, a key on each stroke in its tempo; one stroke has none', () => {
    const along = alongTheClick([100, 600, 1100], 55)!
    expect(along.part.map(({ key, onsetTicks }) => [key, along.tempoMap.msAt(onsetTicks)])).toEqual([
      [55, 0],
      [55, 500],
      [55, 1000],
    ])
    expect(alongTheClick([100], 55)).toBeNull()
  })
})
