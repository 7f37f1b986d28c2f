import { drawnNote } from '../event/notes.testing'
import { TICKS_PER_QUARTER as quarter } from '../time/units'
import { findDynamics } from './dynamics'
import { forcesOf, swellOf } from './swell'

/** Long notes of two bars, all struck alike. */
const written = [0, 8, 16, 24].map((at, index) => ({
  note: drawnNote({
    id: index + 1,
    onsetTicks: at * quarter,
    durationTicks: 8 * quarter,
    key: 60,
    velocity: 80,
  }),
  onsetTicks: at * quarter,
  endTicks: (at + 8) * quarter,
  isShort: false,
}))

/** A controller that is moved four times in a quarter. */
const curve = (number: number, valueAt: (quarters: number) => number) =>
  Array.from({ length: 128 }, (_, index) => ({
    tick: (index * quarter) / 4,
    channel: 1,
    kind: 'controller' as const,
    number,
    value: Math.round(valueAt(index / 4)),
  }))

test('breath that grows under long notes is a crescendo to the level it reaches', () => {
  const swell = swellOf(
    curve(2, (at) => (at < 8 ? 30 : at < 16 ? 30 + (at - 8) * 10 : 110)),
    32 * quarter,
  )
  const { levels, hairpins } = findDynamics(written, swell)
  expect(hairpins).toHaveLength(1)
  expect(hairpins[0]!.kind).toBe('crescendo')
  expect(Math.abs(hairpins[0]!.startTicks / quarter - 8)).toBeLessThanOrEqual(1)
  expect(Math.abs(hairpins[0]!.endTicks / quarter - 16)).toBeLessThanOrEqual(1)
  expect(levels[0]!.mark).toMatch(/^p+$/)
  expect(levels.at(-1)!.mark).toMatch(/^f+$/)
})

test('expression is a share of the force that notes are struck with', () => {
  const swell = swellOf(
    curve(11, (at) => 127 - at * 2.5),
    32 * quarter,
  )!
  const forces = forcesOf(swell, written)
  expect(Math.max(...forces.map(({ velocity }) => velocity))).toBeCloseTo(80)
  expect(findDynamics(written, swell).hairpins.map(({ kind }) => kind)).toEqual(['diminuendo'])
})

test('a controller that is set once, or hardly moves, shapes nothing', () => {
  expect(swellOf(curve(11, () => 100).slice(0, 1), quarter)).toBeNull()
  expect(
    swellOf(
      curve(11, (at) => 100 + (at % 2)),
      32 * quarter,
    ),
  ).toBeNull()
  expect(
    swellOf(
      curve(7, (at) => at * 3),
      32 * quarter,
    ),
  ).toBeNull()
})

test('where nothing sounds there is no force', () => {
  const swell = swellOf(
    curve(2, (at) => 20 + at),
    64 * quarter,
  )!
  expect(
    forcesOf(swell, written.slice(1, 2)).every(({ tick }) => tick >= 8 * quarter && tick < 16 * quarter),
  ).toBe(true)
})
