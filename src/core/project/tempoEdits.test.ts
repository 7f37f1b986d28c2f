import fc from 'fast-check'
import { createDemo } from '../demo/harbourEvening'
import { TempoMap } from '../time/tempoMap'
import { soundingNotes } from './create'
import { markBarNumbers, markBars, markedBars } from './stretch'
import { removeMeterAt, removeTempoAt, setMeterAt, setTempoAt } from './tempoEdits'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const onsets = (project: typeof demo) => soundingNotes(project.tracks[0]!).map((note) => note.onsetTicks)

describe('tempo along the piece', () => {
  test('recorded slowly, sped up: bars and beats stay', () => {
    const faster = setTempoAt(demo, 0, 184)
    expect(onsets(faster)).toEqual(onsets(demo))
    expect(faster.tempos).toEqual([{ tick: 0, tempoBpm: 184 }])
  })

  test('keeping clock time: every note sounds when it sounded, at any new tempi', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 40, max: 240 }),
        fc.integer({ min: 40, max: 240 }),
        fc.integer({ min: 1, max: 12 }),
        (first, second, bar) => {
          const changed = setTempoAt(setTempoAt(demo, 0, first, 'clock'), bar * 40_320, second, 'clock')
          const [before, after] = [new TempoMap(demo.tempos), new TempoMap(changed.tempos)]
          const old = soundingNotes(demo.tracks[1]!)
          for (const [index, note] of soundingNotes(changed.tracks[1]!).entries())
            expect(Math.abs(after.msAt(note.onsetTicks) - before.msAt(old[index]!.onsetTicks))).toBeLessThan(
              0.5,
            )
        },
      ),
      { numRuns: 20 },
    )
  })

  test('a change in the middle, and out again', () => {
    const changed = setTempoAt(demo, 8 * 40_320, 120)
    expect(changed.tempos).toHaveLength(2)
    expect(removeTempoAt(changed, 8 * 40_320).tempos).toEqual(demo.tempos)
    expect(removeTempoAt(demo, 0)).toBe(demo)
  })
})

describe('meter along the piece', () => {
  test('takes effect at the bar a place lies in, and comes out again', () => {
    const changed = setMeterAt(demo, 4 * 40_320 + 500, { numerator: 3, denominator: 4 })
    expect(changed.meters).toEqual([
      { tick: 0, numerator: 4, denominator: 4 },
      { tick: 4 * 40_320, numerator: 3, denominator: 4 },
    ])
    expect(onsets(changed)).toEqual(onsets(demo))
    expect(removeMeterAt(changed, 4 * 40_320).meters).toEqual(demo.meters)
    expect(removeMeterAt(demo, 0)).toBe(demo)
  })
})

describe('a marked stretch', () => {
  test('is whole bars, also across a change of meter', () => {
    const changed = setMeterAt(demo, 4 * 40_320, { numerator: 3, denominator: 4 })
    const marked = markBars(changed, 3 * 40_320 + 10, 4 * 40_320 + 10)
    expect(marked.recording.stretch).toEqual({ startTicks: 3 * 40_320, endTicks: 4 * 40_320 + 30_240 })
    expect(markedBars(marked)).toEqual({ first: 4, last: 5 })
    expect(markBarNumbers(changed, 4, 5).recording).toEqual(marked.recording)
  })

  test('a last bar before the first is taken as the first', () => {
    expect(markedBars(markBarNumbers(demo, 5, 2))).toEqual({ first: 5, last: 5 })
    expect(markedBars(demo)).toBeNull()
  })
})
