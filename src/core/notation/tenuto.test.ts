import { drawnNote } from '../event/notes.testing'
import { TICKS_PER_QUARTER as quarter } from '../time/units'
import { heldInFull } from './tenuto'

const line = (shares: readonly number[]) =>
  shares.map((share, index) => ({
    note: drawnNote({
      id: index + 1,
      onsetTicks: index * quarter,
      durationTicks: Math.round(share * quarter),
      key: 60 + (index % 5),
    }),
    onsetTicks: index * quarter,
    endTicks: (index + 1) * quarter,
    isShort: false,
  }))

test('notes that are held in full by who detaches the others', () => {
  const shares = Array.from({ length: 24 }, (_, index) => (index % 8 === 7 ? 1 : 0.7))
  expect([...heldInFull(line(shares), () => false)]).toEqual([8, 16, 24])
  expect([...heldInFull(line(shares), (id) => id === 16)]).toEqual([8, 24])
})

test('where that is the usual way to play, or half of the notes are so, nothing is said', () => {
  expect(heldInFull(line(Array.from({ length: 24 }, () => 0.98)), () => false).size).toBe(0)
  expect(
    heldInFull(line(Array.from({ length: 24 }, (_, index) => (index % 3 === 0 ? 1 : 0.7))), () => false).size,
  ).toBe(0)
})
