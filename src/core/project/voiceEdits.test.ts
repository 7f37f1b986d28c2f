import fc from 'fast-check'
import { soundingNotes } from './create'
import type { Project } from './schema'
import { noteAt, pieceWith } from './trackWith.testing'
import { applyCarriedOn, carryOn, putInVoice, voicesOf } from './voiceEdits'

const id = 'track-1000'
const voices = (project: Project) => soundingNotes(project.tracks[0]!).map(({ voice }) => voice)

/** Two lines in thirds, told the wrong way round from beat 1 on; a rest at beat 4; then right again. */
const swapped = pieceWith(
  [0, 1, 2, 3, 5, 6].flatMap((beat, index) => {
    const isWrong = beat >= 1 && beat <= 3
    return [
      noteAt(index * 2 + 1, beat, 64, { voice: isWrong ? 1 : 2 }),
      noteAt(index * 2 + 2, beat, 67, { voice: isWrong ? 2 : 1 }),
    ]
  }),
)

test('a note that was put into a voice by hand is there, and says so; zero takes it out', () => {
  const put = putInVoice(swapped, id, new Set([4]), 1)
  expect(soundingNotes(put.tracks[0]!)[3]).toMatchObject({ voice: 1, isVoiceByHand: true })
  expect(voicesOf(soundingNotes(put.tracks[0]!))).toEqual([1, 2])
  const none = soundingNotes(putInVoice(put, id, new Set([4]), null).tracks[0]!)[3]!
  expect('voice' in none || 'isVoiceByHand' in none).toBe(false)
})

test('a correction is carried on to what follows in both voices, up to the rest, and no further', () => {
  const before = new Map([[4, 2]])
  const put = putInVoice(swapped, id, new Set([4]), 1)
  const carried = carryOn(put.tracks[0]!, before)
  expect(voices(applyCarriedOn(put, id, carried))).toEqual([2, 1, 2, 1, 2, 1, 2, 1, 2, 1, 2, 1])
  expect([...carried.voiceOf.keys()].sort((a, b) => a - b)).toEqual([3, 5, 6, 7, 8])
  expect(carried.untilTicks).toBe(3 * 10_080)
})

test('it stops at a note that somebody set by hand', () => {
  const held = putInVoice(swapped, id, new Set([6]), 2)
  const put = putInVoice(held, id, new Set([4]), 1)
  const carried = carryOn(put.tracks[0]!, new Map([[4, 2]]))
  expect([...carried.voiceOf.keys()].every((noteId) => noteId < 6)).toBe(true)
  expect(voices(applyCarriedOn(put, id, carried))[5]).toBe(2)
})

test('a correction changes no voice but of what it says: what comes before, other voices and hand-set notes stay', () => {
  const anyNotes = fc.array(
    fc.record({
      beat: fc.integer({ min: 0, max: 12 }),
      key: fc.integer({ min: 50, max: 80 }),
      voice: fc.integer({ min: 1, max: 4 }),
    }),
    { minLength: 2, maxLength: 30 },
  )
  fc.assert(
    fc.property(anyNotes, fc.nat(), fc.integer({ min: 1, max: 4 }), (fields, pick, voice) => {
      const notes = fields
        .map((each, index) => noteAt(index + 1, each.beat, each.key, { voice: each.voice }))
        .sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key || a.id - b.id)
      const chosen = notes[pick % notes.length]!
      const put = putInVoice(pieceWith(notes), id, new Set([chosen.id]), voice)
      const { voiceOf } = carryOn(put.tracks[0]!, new Map([[chosen.id, chosen.voice!]]))
      const pair = new Set([chosen.voice, voice])
      for (const [noteId, next] of voiceOf) {
        const note = notes.find((each) => each.id === noteId)!
        expect(note.onsetTicks).toBeGreaterThanOrEqual(chosen.onsetTicks)
        expect(pair.has(note.voice) && pair.has(next) && next !== note.voice).toBe(true)
      }
    }),
  )
})
