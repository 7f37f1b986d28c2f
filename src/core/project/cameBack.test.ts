import fc from 'fast-check'
import { cameBack, type TimedKey } from './cameBack'

const sent = Array.from(
  { length: 40 },
  (_, index): TimedKey => ({
    timeMs: 1000 + index * 120,
    channel: 1 + (index % 3),
    key: 60 + (index % 5),
  }),
)

test('a whole way back: everything, with its delay and how even it is', () => {
  const heard = sent.map((note, index) => ({ ...note, timeMs: note.timeMs + 8 + (index % 2) }))
  expect(cameBack(sent, heard)).toEqual({ sent: 40, back: 40, more: 0, delayMs: 9, jitterMs: 1 })
})

test('what is lost, sent on another channel or comes by itself is counted', () => {
  const heard = sent.flatMap((note, index) =>
    index === 3 ? [] : [{ ...note, timeMs: note.timeMs + 5, channel: index === 7 ? 16 : note.channel }],
  )
  heard.push({ timeMs: 500, channel: 1, key: 60 })
  expect(cameBack(sent, heard)).toMatchObject({ sent: 40, back: 38, more: 2 })
})

test('without an answer there is no delay', () => {
  expect(cameBack(sent, [])).toEqual({ sent: 40, back: 0, more: 0, delayMs: null, jitterMs: null })
})

test('each note that came is counted once', () => {
  const note = fc.record({
    timeMs: fc.integer({ min: 0, max: 6000 }),
    channel: fc.integer({ min: 1, max: 3 }),
    key: fc.integer({ min: 60, max: 64 }),
  })
  fc.assert(
    fc.property(fc.array(note), (heard) => {
      const { back, more } = cameBack(sent, heard)
      expect(back + more).toBe(heard.length)
    }),
  )
})
