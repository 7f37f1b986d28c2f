import fc from 'fast-check'
import type { ChannelMessage } from './message'
import { pairNotes } from './notePairs'

type Timed = ChannelMessage & { readonly timeMs: number }
const on = (timeMs: number, key = 60): Timed => ({ type: 'noteOn', channel: 1, key, velocity: 80, timeMs })
const off = (timeMs: number, key = 60): Timed => ({ type: 'noteOff', channel: 1, key, velocity: 64, timeMs })

/** Each note as [onset, end]. */
function notesOf(stream: readonly Timed[]) {
  return pairNotes(stream, (index) => stream[index]!.timeMs).pairs.map(({ onIndex, offIndex }) => [
    stream[onIndex]!.timeMs,
    offIndex < 0 ? null : stream[offIndex]!.timeMs,
  ])
}

describe('what ends a note', () => {
  test('one missing note-off spoils one note and none after it', () => {
    expect(notesOf([on(0), on(1000), off(1400), on(2000), off(2400), on(3000), off(3400)])).toEqual([
      [0, 1000],
      [1000, 1400],
      [2000, 2400],
      [3000, 3400],
    ])
  })

  test('strokes at the same moment stand beside each other', () => {
    expect(notesOf([on(0), on(0), off(500), off(900)])).toEqual([
      [0, 500],
      [0, 900],
    ])
  })

  test('counts: restruck, without a note-off of its own, a note-off for nothing', () => {
    const stream = [on(0), on(10), off(20), off(30), off(40), on(50), on(60)]
    expect(pairNotes(stream, (index) => stream[index]!.timeMs)).toMatchObject({
      overlappingNotes: 2,
      strayNoteOffs: 1,
      hangingNotes: 2,
    })
  })

  test('of several streams, none ends another’s notes', () => {
    const stream = [on(0), on(10), off(20), off(30)]
    const { pairs } = pairNotes(
      stream,
      (index) => stream[index]!.timeMs,
      (index) => index % 2,
    )
    expect(pairs).toEqual([
      { onIndex: 0, offIndex: 2 },
      { onIndex: 1, offIndex: 3 },
    ])
  })

  test('for any playing, whatever single note-off is lost, every other note is as it was', () => {
    const strokes = fc.array(
      fc.record({
        gapMs: fc.integer({ min: 1, max: 500 }),
        heldMs: fc.integer({ min: 1, max: 400 }),
        key: fc.integer({ min: 60, max: 62 }),
      }),
      { minLength: 1, maxLength: 30 },
    )
    fc.assert(
      fc.property(strokes, fc.nat(), (list, pick) => {
        // One key after the other is free before it is struck again.
        const freeAt = new Map<number, number>()
        let timeMs = 0
        const notes = list.map(({ gapMs, heldMs, key }) => {
          timeMs = Math.max(timeMs + gapMs, (freeAt.get(key) ?? 0) + 1)
          freeAt.set(key, timeMs + heldMs)
          return { key, onMs: timeMs, offMs: timeMs + heldMs }
        })
        const lost = notes[pick % notes.length]!
        const stream = notes
          .flatMap(({ key, onMs, offMs }) => [on(onMs, key), off(offMs, key)])
          .filter(
            (event) => !(event.type === 'noteOff' && event.key === lost.key && event.timeMs === lost.offMs),
          )
          .sort((a, b) => a.timeMs - b.timeMs || (a.type === 'noteOff' ? -1 : 1))
        const found = new Map(
          pairNotes(stream, (index) => stream[index]!.timeMs).pairs.map(({ onIndex, offIndex }) => {
            const { key, timeMs: onMs } = stream[onIndex] as Timed & { key: number }
            return [`${key} ${onMs}`, offIndex < 0 ? null : stream[offIndex]!.timeMs]
          }),
        )
        expect(found.size).toBe(notes.length)
        for (const note of notes)
          if (note !== lost) expect(found.get(`${note.key} ${note.onMs}`)).toBe(note.offMs)
      }),
    )
  })
})
