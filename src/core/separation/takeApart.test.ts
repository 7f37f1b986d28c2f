import fc from 'fast-check'
import { type NoteToPart, takeApart, type Way } from './takeApart'

const anyNotes: fc.Arbitrary<NoteToPart[]> = fc.array(
  fc
    .record({
      onset: fc.nat(40),
      length: fc.integer({ min: 0, max: 12 }),
      key: fc.nat(127),
      velocity: fc.integer({ min: 1, max: 127 }),
    })
    .map(({ onset, length, key, velocity }) => ({
      onsetQuarters: onset / 4,
      endQuarters: (onset + length) / 4,
      key,
      velocity,
    })),
  { maxLength: 30 },
)

const anyWay: fc.Arbitrary<Way> = fc.oneof(
  fc.record({
    by: fc.constant('voice' as const),
    voices: fc.oneof(fc.constant('found' as const), fc.integer({ min: 1, max: 20 })),
  }),
  fc.constant({ by: 'hand' as const }),
  fc.constant({ by: 'line' as const }),
  fc.record({
    by: fc.constant('key' as const),
    atKeys: fc.array(fc.nat(127), { minLength: 1, maxLength: 4 }),
  }),
  fc.constant({ by: 'drum' as const }),
  fc.record({ by: fc.constant('force' as const), underVelocity: fc.integer({ min: 1, max: 127 }) }),
)

test('any notes, any way: every note is in exactly one part, no part is empty, and put together they are what they were', () => {
  fc.assert(
    fc.property(anyNotes, anyWay, (notes, way) => {
      const { parts, unsure } = takeApart(notes, way, 0.08)
      const members = parts.flatMap((part) => [...part.members])
      expect(members.sort((a, b) => a - b)).toEqual(notes.map((_, index) => index))
      for (const part of parts) expect(part.members.length).toBeGreaterThan(0)
      expect(new Set(parts.map(({ name }) => name)).size).toBe(parts.length)
      for (const index of unsure) expect(index).toBeLessThan(notes.length)
    }),
  )
})

const note = (key: number, fields: Partial<NoteToPart> = {}): NoteToPart => ({
  onsetQuarters: 0,
  endQuarters: 1,
  key,
  velocity: 80,
  ...fields,
})
const named = (notes: readonly NoteToPart[], way: Way) =>
  Object.fromEntries(
    takeApart(notes, way, 0.08).parts.map(({ name, members }) => [
      name,
      members.map((each) => notes[each]!.key),
    ]),
  )

test('the keys and the pedal of a hi-hat are one instrument', () => {
  const strokes = [36, 42, 38, 46, 44, 56].map((key) => note(key))
  expect(named(strokes, { by: 'drum' })).toEqual({
    'Bass drum': [36],
    'Snare drum': [38],
    'Hi-hat': [42, 46, 44],
    Cowbell: [56],
  })
})

test('ghost notes are told from main strokes', () => {
  const strokes = [note(38, { velocity: 100 }), note(38, { velocity: 24 })]
  expect(takeApart(strokes, { by: 'force', underVelocity: 40 }, 0.08).parts).toEqual([
    { name: 'main strokes', members: [0] },
    { name: 'ghost notes', members: [1] },
  ])
})

test('ranges of keys: the lowest range reaches down to the end of the keyboard', () => {
  const notes = [30, 59, 60, 71, 72, 100].map((key) => note(key))
  expect(named(notes, { by: 'key', atKeys: [72, 60] })).toEqual({
    'from C5': [72, 100],
    'from C4': [60, 71],
    'below C4': [30, 59],
  })
})

test('twenty voices asked of a melody are eight at most, and nothing gives nothing', () => {
  const melody = Array.from({ length: 40 }, (_, index) =>
    note(50 + index, { onsetQuarters: index, endQuarters: index + 1 }),
  )
  expect(takeApart(melody, { by: 'voice', voices: 20 }, 0.08).parts.length).toBeLessThanOrEqual(8)
  expect(takeApart(melody, { by: 'voice', voices: 'found' }, 0.08).parts).toHaveLength(1)
  expect(takeApart([], { by: 'voice', voices: 'found' }, 0.08)).toEqual({ parts: [], unsure: [] })
})
