import fc from 'fast-check'
import { keyName, type Note, parseKeyName } from '../event/note'
import { packNotes, unpackNotes } from '../event/noteColumns'
import { changeVelocity, deleteNotes, moveNotes, moveStrokes, stretchNotes } from './notes'

const note = (id: number, onsetTicks: number, key: number, durationTicks = 5000): Note => ({
  id,
  onsetTicks,
  durationTicks,
  key,
  velocity: 80,
  releaseVelocity: 64,
  channel: 1,
  origin: { kind: 'drawn' },
})
const notes = [note(1, 0, 60), note(2, 5100, 64), note(3, 9900, 67)]

describe('editing notes', () => {
  test('a selection moves as a whole and stops at the edges', () => {
    expect(
      moveNotes(notes, new Set([2, 3]), -9000, 100).map(({ id, onsetTicks, key }) => [id, onsetTicks, key]),
    ).toEqual([
      [1, 0, 60],
      [2, 0, 124],
      [3, 4800, 127],
    ])
  })

  test('stretching leaves no note without length', () => {
    expect(stretchNotes(notes, new Set([1]), -100_000)[0]!.durationTicks).toBe(120)
    expect(stretchNotes(notes, new Set([1]), 2520)[0]!.durationTicks).toBe(7520)
  })

  test('delete and velocity touch only what is chosen', () => {
    expect(deleteNotes(notes, new Set([2])).map(({ id }) => id)).toEqual([1, 3])
    expect(changeVelocity(notes, new Set([3]), 300).map(({ velocity }) => velocity)).toEqual([80, 80, 127])
    const uneven = notes.map((note, index) => ({ ...note, velocity: 40 + index * 30 }))
    expect(changeVelocity(uneven, new Set([1, 3]), -10).map(({ velocity }) => velocity)).toEqual([30, 70, 90])
  })
})

describe('notes as columns', () => {
  test('come back the same', () => {
    const origin = fc.oneof(
      fc.constant({ kind: 'drawn' as const }),
      fc.record({
        kind: fc.constant('played' as const),
        takeSerial: fc.nat(10_000),
        eventIndex: fc.nat(1_000_000),
      }),
      fc.record({ kind: fc.constant('printed' as const), fromNoteId: fc.nat(1_000_000) }),
      fc.record({ kind: fc.constant('imported' as const), eventIndex: fc.nat(1_000_000) }),
    )
    const any = fc.record({
      id: fc.nat(2_000_000_000),
      onsetTicks: fc.nat(2_000_000_000),
      durationTicks: fc.integer({ min: 1, max: 2_000_000_000 }),
      key: fc.nat(127),
      velocity: fc.integer({ min: 1, max: 127 }),
      releaseVelocity: fc.nat(127),
      channel: fc.integer({ min: 1, max: 16 }),
      origin,
    })
    fc.assert(fc.property(fc.array(any), (list) => expect(unpackNotes(packNotes(list))).toEqual(list)))
  })
})

describe('names of keys', () => {
  // Source: ISO 16 and MIDI 1.0 with middle C = C4 = 60, A4 = 69.
  test.each([
    [60, 'C4'],
    [69, 'A4'],
    [21, 'A0'],
    [108, 'C8'],
    [61, 'C♯4'],
    [70, 'B♭4'],
  ])('%i is %s', (key, name) => {
    expect(keyName(key)).toBe(name)
    expect(parseKeyName(name)).toBe(key)
  })

  test('other spellings, and what is none', () => {
    expect([parseKeyName('c#4'), parseKeyName('Db4'), parseKeyName('60'), parseKeyName('c4')]).toEqual([
      61, 61, 60, 60,
    ])
    expect([parseKeyName('H4'), parseKeyName('C99'), parseKeyName(''), parseKeyName('200')]).toEqual([
      undefined,
      undefined,
      undefined,
      undefined,
    ])
  })
})

test('strokes of a kit go from instrument to instrument, not from key to key', () => {
  const rows = [46, 42, 38, 36]
  const strokes = [note(1, 0, 36), note(2, 100, 42)]
  const up = moveStrokes(strokes, new Set([1, 2]), 200, (key) => rows[Math.max(0, rows.indexOf(key) - 1)]!)
  expect(up.map(({ onsetTicks, key }) => [onsetTicks, key])).toEqual([
    [200, 38],
    [300, 46],
  ])
})
