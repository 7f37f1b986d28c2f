import fc from 'fast-check'
import type { NoteOrigin } from './note'
import { packNotes, unpackNotes } from './noteColumns'

const number = fc.integer({ min: 0, max: 2_000_000_000 })
const origin: fc.Arbitrary<NoteOrigin> = fc.oneof(
  fc.record({ kind: fc.constant('played' as const), takeSerial: number, eventIndex: number }),
  fc.record({ kind: fc.constant('printed' as const), fromNoteId: number }),
  fc.record({ kind: fc.constant('imported' as const), eventIndex: number }),
  fc.constant({ kind: 'drawn' as const }),
  fc.constant({ kind: 'generated' as const }),
)
const seven = fc.integer({ min: 0, max: 127 })
const note = fc.record({
  id: number,
  onsetTicks: number,
  durationTicks: number,
  key: seven,
  velocity: seven,
  releaseVelocity: seven,
  channel: fc.integer({ min: 1, max: 16 }),
  origin,
})

test('notes of any origin come back from their columns as they were', () => {
  fc.assert(
    fc.property(fc.array(note, { maxLength: 40 }), (notes) =>
      expect(unpackNotes(packNotes(notes))).toEqual(notes),
    ),
  )
})

test('an origin of a kind that there is not is an error, and not taken for another', () => {
  const columns = packNotes(fc.sample(note, 1))
  columns.origins[0] = 77
  expect(() => unpackNotes(columns)).toThrow(/no kind of origin with the number 77/)
})
