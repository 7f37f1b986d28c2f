import { RisingPitch } from './risingPitch'

/** A pitch every 2.5 ms that comes nearer to its goal by the same part in the same time. */
const reaching = (fromKeys: number, goalKeys: number, withinMs: number) => (timeMs: number) =>
  goalKeys + (fromKeys - goalKeys) * Math.exp(-timeMs / withinMs)

function heardFrom(placeAt: (timeMs: number) => number, steps: number): number {
  const rising = new RisingPitch()
  let goesOnBy = 0
  for (let step = 0; step < steps; step++) goesOnBy = rising.goesOnBy(placeAt(step * 2.5), step * 2.5)
  return goesOnBy
}

test('who reaches for a key from beneath is told to be on the way to it', () => {
  for (const [fromKeys, withinMs] of [
    [-0.7, 60],
    [-0.65, 50],
    [-0.6, 90],
  ] as const) {
    const placeAt = reaching(62 + fromKeys, 62, withinMs)
    const place = placeAt(10)
    expect(Math.round(place + heardFrom(placeAt, 5))).toBe(62)
    expect(heardFrom(placeAt, 5)).toBeGreaterThan(0.1)
  }
})

test('a pitch that stands, falls or jumps goes on to nowhere', () => {
  expect(heardFrom(() => 60.4, 8)).toBe(0)
  expect(heardFrom(reaching(60.4, 60, 50), 8)).toBe(0)
  expect(heardFrom((timeMs) => (timeMs < 10 ? 60 : 67), 5)).toBe(0)
  expect(heardFrom(() => Number.NaN, 5)).toBe(0)
})

test('however fast it rises, it goes on no farther than to the next key', () => {
  for (let steps = 2; steps < 12; steps++) {
    const placeAt = (timeMs: number) => 60 + timeMs * 0.06
    const place = placeAt((steps - 1) * 2.5)
    expect(place + heardFrom(placeAt, steps)).toBeLessThanOrEqual(Math.ceil(place))
  }
})

test('vibrato near a key is that key', () => {
  expect(heardFrom((timeMs) => 60 + 0.28 * Math.sin((timeMs / 180) * 2 * Math.PI), 8)).toBe(0)
})
