import type { EffectNoteOn } from './noteEffect'
import { GatheredChord, togetherTicks } from './together'

const on = (tick: number, key: number): EffectNoteOn => ({
  type: 'on',
  tick,
  key,
  velocity: 80,
  channel: 1,
  sourceId: key,
})

test('a chord is complete a moment after its first note, whenever the others came', () => {
  const chord = new GatheredChord()
  expect(chord.completeTicks).toBe(Number.POSITIVE_INFINITY)
  chord.add(on(1000, 67))
  chord.add(on(1200, 60))
  expect(chord.completeTicks).toBe(1000 + togetherTicks)
  expect(chord.take(false).map((each) => each.on.key)).toEqual([60, 67])
  expect(chord.completeTicks).toBe(Number.POSITIVE_INFINITY)
})

test('a note that ended before the chord was complete keeps its end; others are not its business', () => {
  const chord = new GatheredChord()
  const [short, long] = [on(0, 60), on(0, 64)]
  chord.add(short)
  chord.add(long)
  expect(chord.end(short, 200, 50)).toBe(true)
  expect(chord.end(on(0, 60), 200, 50)).toBe(false)
  expect(chord.take(true).map((each) => [each.on.key, each.end])).toEqual([
    [64, null],
    [60, { tick: 200, velocity: 50 }],
  ])
  expect(chord.end(long, 300, 50)).toBe(false)
})
