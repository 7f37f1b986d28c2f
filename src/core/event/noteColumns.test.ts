import fc from 'fast-check'
import type { Note, NoteOrigin } from './note'
import { columnBuffers, packNotes, unpackNotes } from './noteColumns'

const number = fc.integer({ min: 0, max: 2_000_000_000 })
const origin: fc.Arbitrary<NoteOrigin> = fc.oneof(
  fc.record({ kind: fc.constant('played' as const), takeSerial: number, eventIndex: number }),
  fc.record({ kind: fc.constant('printed' as const), fromNoteId: number }),
  fc.record({ kind: fc.constant('imported' as const), eventIndex: number }),
  fc.record({ kind: fc.constant('carried' as const), fromNoteId: number }),
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

test('voices and staves go with the notes; without any there is no column for them', () => {
  const plain: Note = {
    id: 1,
    onsetTicks: 0,
    durationTicks: 10,
    key: 60,
    velocity: 80,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'carried', fromNoteId: 7 },
  }
  const told: Note[] = [
    plain,
    { ...plain, id: 2, voice: 8, isVoiceByHand: true },
    { ...plain, id: 3, staff: 2 },
    { ...plain, id: 4, voice: 1, staff: 1 },
  ]
  expect(unpackNotes(packNotes(told))).toEqual(told)
  expect(columnBuffers(packNotes(told))).toHaveLength(4)
  expect(packNotes([plain]).lines).toBeUndefined()
})
