import fc from 'fast-check'
import { drawnNote } from '../event/notes.testing'
import { randomSource } from '../event/randomSource.testing'
import { findDynamics, markOf } from './dynamics'
import type { WrittenNote } from './rhythm/rhythm'

const eighth = 5040

/** Eighths struck with these forces. */
const struck = (velocities: readonly number[]): WrittenNote[] =>
  velocities.map((velocity, index) => ({
    note: drawnNote({
      id: index + 1,
      onsetTicks: index * eighth,
      durationTicks: eighth,
      velocity: Math.max(1, Math.min(127, Math.round(velocity))),
    }),
    onsetTicks: index * eighth,
    endTicks: (index + 1) * eighth,
    isShort: false,
  }))

/** As a hand strikes: no two notes quite alike. */
const uneven = (velocities: readonly number[], seed: number, by = 5) => {
  const random = randomSource(seed)
  return velocities.map((velocity) => velocity + (random() + random() - 1) * 2 * by)
}
const times = (count: number, velocity: number) => new Array<number>(count).fill(velocity)
const ramp = (count: number, from: number, to: number) =>
  Array.from({ length: count }, (_, index) => from + ((to - from) * index) / (count - 1))

test('levels are those that velocities are usually played back at', () => {
  expect([33, 49, 64, 80, 96, 112].map(markOf)).toEqual(['pp', 'p', 'mp', 'mf', 'f', 'ff'])
})

test('a phrase that is played evenly has one level, however uneven the hand', () => {
  for (const seed of [1, 2, 3, 4, 5]) {
    const { levels, hairpins, accented } = findDynamics(struck(uneven(times(96, 80), seed)))
    expect(levels).toEqual([{ tick: 0, mark: 'mf' }])
    expect(hairpins).toEqual([])
    expect(accented.size).toBe(0)
  }
})

test('a level that follows another is printed where it begins, once', () => {
  const velocities = uneven([...times(32, 50), ...times(32, 98), ...times(32, 97)], 7)
  expect(findDynamics(struck(velocities)).levels).toEqual([
    { tick: 0, mark: 'p' },
    { tick: 32 * eighth, mark: 'f' },
  ])
})

test('a rise over two bars is a hairpin to the level it leads to', () => {
  const velocities = uneven([...times(24, 48), ...ramp(16, 50, 108), ...times(24, 112)], 3, 3)
  const { levels, hairpins } = findDynamics(struck(velocities))
  expect(levels.map(({ mark }) => mark)).toEqual(['p', 'ff'])
  expect(hairpins).toHaveLength(1)
  expect(hairpins[0]!.kind).toBe('crescendo')
  expect(Math.abs(hairpins[0]!.startTicks / eighth - 24)).toBeLessThanOrEqual(3)
  expect(Math.abs(hairpins[0]!.endTicks / eighth - 40)).toBeLessThanOrEqual(3)
})

test('a note far above its surroundings is accented; where every other one is, that is the meter', () => {
  const velocities = uneven(times(64, 70), 11)
  velocities[20] = 105
  velocities[43] = 100
  expect([...findDynamics(struck(velocities)).accented]).toEqual([21, 44])
  const waltz = Array.from({ length: 64 }, (_, index) => (index % 2 === 0 ? 95 : 60))
  expect(findDynamics(struck(waltz)).accented.size).toBe(0)
})

test('whatever is played: levels in order and never the same twice, hairpins inside the piece and not over each other', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 127 }), { maxLength: 80 }), (velocities) => {
      const { levels, hairpins } = findDynamics(struck(velocities))
      for (const [index, level] of levels.entries()) {
        const before = levels[index - 1]
        if (before) {
          expect(level.tick).toBeGreaterThanOrEqual(before.tick)
          expect(level.mark).not.toBe(before.mark)
        }
      }
      let end = 0
      for (const { startTicks, endTicks } of hairpins) {
        expect(startTicks).toBeGreaterThanOrEqual(end)
        expect(endTicks).toBeGreaterThan(startTicks)
        end = endTicks
      }
      expect(end).toBeLessThanOrEqual(velocities.length * eighth)
    }),
  )
})
