import fc from 'fast-check'
import { InputClock } from './inputClock'

/** Sound of so many pieces, each of which arrives late by something. */
function clockAfter(latenessMs: readonly number[], pieceMs = 3, driftPart = 0) {
  const clock = new InputClock(10)
  let heardMs = 0
  for (const late of latenessMs) {
    heardMs += pieceMs
    clock.arrived(heardMs, 1_000_000 + heardMs * (1 + driftPart) + late)
  }
  return { clock, heardMs }
}

describe('where the sound of an input lies in time', () => {
  test('pieces that come late tell nothing: the quickest of the last seconds do, less what the device is late by', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 200, noNaN: true }), { minLength: 1, maxLength: 500 }),
        (late) => {
          const { clock } = clockAfter([...late, 2])
          const least = Math.min(2, ...late)
          expect(clock.epochMsOf(500)).toBeCloseTo(1_000_000 + 500 + least - 10, 6)
        },
      ),
    )
  })

  test('a device whose second is a little longer is followed', () => {
    // Two hundred parts in a million, for five minutes: 60 ms.
    const { clock, heardMs } = clockAfter(
      Array.from({ length: 100_000 }, (_, index) => (index * 7) % 5),
      3,
      0.0002,
    )
    expect(Math.abs(clock.epochMsOf(heardMs) - (1_000_000 + heardMs * 1.0002 - 10))).toBeLessThan(2)
  })

  test('after the sound has stood still, time goes on from there', () => {
    const { clock, heardMs } = clockAfter([1, 1, 1])
    clock.arrived(heardMs + 3, 1_000_000 + heardMs + 3 + 60_000)
    expect(clock.epochMsOf(heardMs + 3)).toBe(1_000_000 + heardMs + 3 + 60_000 - 10)
  })
})
