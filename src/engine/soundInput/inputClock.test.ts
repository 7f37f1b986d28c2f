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
const off = ({ clock, heardMs }: ReturnType<typeof clockAfter>, driftPart = 0) =>
  clock.epochMsOf(heardMs) - (1_000_000 + heardMs * (1 + driftPart) - 10)

describe('where the sound of an input lies in time', () => {
  test('pieces that come late tell nothing: some of each quarter of a second come quickly', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 300, max: 3000 }), (seed, pieces) => {
        let state = seed
        const chance = () => {
          state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
          return state / 2 ** 32
        }
        // Three of four come late by up to a tenth of a second.
        const late = Array.from({ length: pieces }, () => (chance() < 0.25 ? 2 : 2 + chance() * 100))
        expect(Math.abs(off(clockAfter(late)) - 2)).toBeLessThan(1)
      }),
    )
  })

  test('sound that is handed over at once when the input is opened does not make all that follows early', () => {
    // The first quarter of a second comes in an instant, the next piece only when time has caught up.
    const late = Array.from({ length: 600 }, (_, index) => (index < 80 ? -3 * index : 1))
    expect(Math.abs(off(clockAfter(late)) - 1)).toBeLessThan(1)
  })

  test('a machine that is busy for a second says nothing about the sound', () => {
    const late = Array.from({ length: 1300 }, (_, index) => (index > 1000 ? 60 : 1))
    expect(Math.abs(off(clockAfter(late)) - 1)).toBeLessThan(1)
  })

  test('a device whose second is a little longer is followed', () => {
    // Two hundred parts in a million, for five minutes: 60 ms.
    const drift = 0.0002
    const late = Array.from({ length: 100_000 }, (_, index) => (index * 7) % 5)
    expect(Math.abs(off(clockAfter(late, 3, drift), drift))).toBeLessThan(2)
  })

  test('after the sound has stood still, time goes on from there', () => {
    const { clock, heardMs } = clockAfter([1, 1, 1])
    clock.arrived(heardMs + 3, 1_000_000 + heardMs + 3 + 60_000)
    expect(clock.epochMsOf(heardMs + 3)).toBe(1_000_000 + heardMs + 3 + 60_000 - 10)
  })
})
