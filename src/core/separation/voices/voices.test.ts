import fc from 'fast-check'
import { judge, performed } from './judging.testing'
import { type KnownMusic, knownMusic, mergedNotes } from './knownMusic.testing'
import { separateVoices } from './separateVoices'
import { splitHands } from './splitHands'
import { unsureNotes } from './unsure'
import { countVoices } from './voiceCount'

const of = (kind: KnownMusic['kind']) => knownMusic.filter((music) => music.kind === kind)
const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length

describe('lines merged to one player and told apart again', () => {
  const separated = (music: KnownMusic, seed: number | null) => {
    const notes = seed === null ? mergedNotes(music) : performed(mergedNotes(music), seed)
    const voices = new Set(notes.map(({ voice }) => voice)).size
    return judge(notes, separateVoices(notes, { voices, togetherQuarters: 0.08 }))
  }

  test('single lines: F1 of at least 0.95, 0.92 of the notes in their voice; performed timing costs less than a point', () => {
    const asWritten = of('lines').map((music) => separated(music, null))
    const asPlayed = of('lines').flatMap((music) => [1, 2, 3, 4].map((seed) => separated(music, seed)))
    const f1 = (rows: typeof asWritten) => mean(rows.map((row) => row.f1))
    expect(f1(asWritten)).toBeGreaterThanOrEqual(0.95)
    expect(mean(asWritten.map(({ share }) => share))).toBeGreaterThanOrEqual(0.92)
    expect(f1(asPlayed)).toBeGreaterThan(f1(asWritten) - 0.01)
  })

  test('voices that hold chords: F1 of at least 0.75', () => {
    for (const seed of [null, 1, 2]) {
      const f1 = mean(of('chords').map((music) => separated(music, seed).f1))
      expect(f1).toBeGreaterThanOrEqual(0.75)
    }
  })

  test('the number of lines is found', () => {
    for (const music of of('lines'))
      expect(countVoices(performed(mergedNotes(music), 3), 0.08)).toBe(music.voices.length)
    expect(countVoices([], 0.08)).toBe(1)
  })
})

describe('hands', () => {
  test('at least 0.94 of the notes lie on the staff of their hand, more than with a fixed split', () => {
    const shares = of('hands').map((music) => {
      const notes = performed(mergedNotes(music), 5)
      const isRight = splitHands(notes, 0.08)
      return {
        moving: notes.filter(({ voice }, index) => (voice === 1) === isRight[index]).length / notes.length,
        fixed: notes.filter(({ voice, key }) => (voice === 1) === key >= 60).length / notes.length,
      }
    })
    expect(mean(shares.map(({ moving }) => moving))).toBeGreaterThanOrEqual(0.94)
    expect(mean(shares.map(({ moving }) => moving))).toBeGreaterThan(mean(shares.map(({ fixed }) => fixed)))
  })

  test('no notes, no hands', () => expect(splitHands([], 0.08)).toEqual([]))
})

const anyNotes = fc.array(
  fc
    .record({
      onset: fc.integer({ min: 0, max: 40 }),
      length: fc.integer({ min: 1, max: 12 }),
      key: fc.nat(127),
    })
    .map(({ onset, length, key }) => ({ onsetQuarters: onset / 4, endQuarters: (onset + length) / 4, key })),
  { maxLength: 30 },
)

describe('for any notes', () => {
  test('each has a voice among those asked for', () => {
    fc.assert(
      fc.property(anyNotes, fc.integer({ min: 1, max: 5 }), (notes, voices) => {
        const voiceOf = separateVoices(notes, { voices, togetherQuarters: 0.05 })
        expect(voiceOf).toHaveLength(notes.length)
        for (const voice of voiceOf) expect(voice >= 1 && voice <= voices).toBe(true)
        for (const index of unsureNotes(notes, voiceOf, 0.05)) expect(notes[index]).toBeDefined()
      }),
    )
  })
})

test.each([2, 4, 8])(
  'a stroke of all keys, over and over, is given to %i voices without trying every way',
  (voices) => {
    const notes = Array.from({ length: 128 * 8 }, (_, index) => ({
      onsetQuarters: Math.floor(index / 128),
      endQuarters: Math.floor(index / 128) + 1,
      key: index % 128,
    }))
    const voiceOf = separateVoices(notes, { voices, togetherQuarters: 0.05 })
    expect(new Set(voiceOf).size).toBe(voices)
    // In the order of pitch: the highest key is the first voice's, the lowest the last one's.
    expect([voiceOf[127], voiceOf[0]]).toEqual([1, voices])
  },
)

test('thousands of strokes of one key at one moment end, too', () => {
  const notes = Array.from({ length: 5000 }, () => ({ onsetQuarters: 0, endQuarters: 1, key: 60 }))
  for (const voices of [1, 2, 4])
    expect(separateVoices(notes, { voices, togetherQuarters: 0.05 })).toHaveLength(5000)
  expect(splitHands(notes, 0.05)).toHaveLength(5000)
})

test('a note hours after the others costs no more than one beside them', () => {
  const notes = [0, 1, 2, 268_435_455].map((onsetQuarters) => ({
    onsetQuarters,
    endQuarters: onsetQuarters + 1,
    key: 60,
  }))
  expect(separateVoices(notes, { voices: 1, togetherQuarters: 0.05 })).toEqual([1, 1, 1, 1])
  expect(splitHands(notes, 0.05)).toHaveLength(4)
})
