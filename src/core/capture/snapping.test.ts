import fc from 'fast-check'
import type { Note } from '../event/note'
import { defaultSnapping, nearestGridTicks, snapNotes } from './snapping'

const played = (id: number, onsetTicks: number, durationTicks = 1000): Note => ({
  id,
  onsetTicks,
  durationTicks,
  key: 60,
  velocity: 80,
  releaseVelocity: 64,
  channel: 1,
  origin: { kind: 'played', takeSerial: 1, eventIndex: id },
})
const onsets = (notes: readonly Note[]) => notes.map((note) => note.onsetTicks)

describe('snapping', () => {
  test('to sixteenths, length kept', () => {
    const snapped = snapNotes([played(1, 130), played(2, 2400, 777)], defaultSnapping)
    expect(onsets(snapped)).toEqual([0, 2520])
    expect(snapped[1]!.durationTicks).toBe(777)
  })

  test('half strength goes half the way', () => {
    expect(onsets(snapNotes([played(1, 2400)], { ...defaultSnapping, strength: 0.5 }))).toEqual([2460])
  })

  test('strength 0 is as played', () => {
    const notes = [played(1, 2400)]
    expect(snapNotes(notes, { ...defaultSnapping, strength: 0 })).toBe(notes)
  })

  test('triplet swing of eighths: the second eighth lies on the last third', () => {
    expect(nearestGridTicks(6000, 5040, 2 / 3)).toBe(6720)
    expect(nearestGridTicks(9000, 5040, 2 / 3)).toBe(10_080)
    expect(nearestGridTicks(200, 5040, 2 / 3)).toBe(0)
  })

  test('triplets where they fit better, beat by beat', () => {
    const notes = [
      ...[30, 3300, 6800].map((tick, index) => played(index, tick)),
      ...[10_100, 12_650, 15_100].map((tick, index) => played(index + 10, tick)),
    ]
    const snapped = snapNotes(notes, { ...defaultSnapping, gridValue: 8, tuplets: true })
    expect(onsets(snapped).slice(0, 3)).toEqual([0, 3360, 6720])
    expect(onsets(snapNotes(notes, { ...defaultSnapping, tuplets: true })).slice(3)).toEqual([
      10_080, 12_600, 15_120,
    ])
  })

  test('drawn notes stay where they are', () => {
    const drawn = { ...played(1, 130), origin: { kind: 'drawn' as const } }
    expect(snapNotes([drawn], defaultSnapping)[0]).toBe(drawn)
  })

  test('for any notes: none is lost, none moves more than half a step, the same ids', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 200_000 }), { maxLength: 50 }),
        fc.constantFrom(4 as const, 8 as const, 16 as const, 32 as const),
        fc.boolean(),
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        (ticks, gridValue, tuplets, strength) => {
          const notes = ticks.sort((a, b) => a - b).map((tick, index) => played(index, tick))
          const snapped = snapNotes(notes, { gridValue, tuplets, strength, swing: 0.5 })
          expect(snapped.map((note) => note.id).sort((a, b) => a - b)).toEqual(notes.map((note) => note.id))
          const half = 40_320 / gridValue / 2
          for (const note of snapped)
            expect(Math.abs(note.onsetTicks - notes[note.id]!.onsetTicks)).toBeLessThanOrEqual(half + 1)
        },
      ),
    )
  })
})
