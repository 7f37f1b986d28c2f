import fc from 'fast-check'
import { drawnNote } from '../event/notes.testing'
import { MeterMap } from '../time/meterMap'
import { clefsFor, findClefs, ledgerLines } from './clefs'
import type { WrittenNote } from './rhythm/rhythm'

const quarter = 10_080
const measures = new MeterMap([{ tick: 0, numerator: 4, denominator: 4 }]).measuresUntil(200 * quarter)

/** Quarters with these keys. */
const line = (keys: readonly number[]): WrittenNote[] =>
  keys.map((key, index) => ({
    note: drawnNote({ id: index + 1, key, onsetTicks: index * quarter }),
    onsetTicks: index * quarter,
    endTicks: (index + 1) * quarter,
    isShort: false,
  }))
const times = (count: number, key: number) => new Array<number>(count).fill(key)
const piano = clefsFor('treble', { kind: 'program', program: 0 }, true)
const cello = clefsFor('bass', { kind: 'program', program: 42 }, false)

test('ledger lines are counted as they are drawn', () => {
  // Middle C and A5 have one in the treble clef, C6 two; an octave line takes C7 down to that.
  expect([60, 81, 84, 64, 77].map((key) => ledgerLines(key, 'treble'))).toEqual([1, 1, 2, 0, 0])
  expect(ledgerLines(96, 'treble', 1)).toBe(2)
  expect([60, 40, 36].map((key) => ledgerLines(key, 'bass'))).toEqual([1, 1, 2])
  expect(ledgerLines(60, 'alto')).toBe(0)
})

test('a passage that goes down changes its clef at the bar line, and comes back', () => {
  const keys = [...times(8, 72), ...times(16, 43), ...times(8, 74)]
  expect(findClefs(line(keys), measures, piano)).toEqual({
    clef: 'treble',
    changes: [
      { bar: 2, clef: 'bass' },
      { bar: 6, clef: 'treble' },
    ],
    octaveLines: [],
  })
})

test('one low note is no reason for another clef', () => {
  const keys = [...times(8, 72), 52, ...times(8, 71)]
  expect(findClefs(line(keys), measures, piano).changes).toEqual([])
})

test('what climbs beyond the ledger lines gets an octave line, from its first to the end of its last note', () => {
  const keys = [...times(6, 76), ...times(9, 98), ...times(5, 76)]
  expect(findClefs(line(keys), measures, piano)).toEqual({
    clef: 'treble',
    changes: [],
    octaveLines: [{ startTicks: 6 * quarter, endTicks: 15 * quarter, octaves: 1 }],
  })
})

test('a cello has the tenor clef where it sings high, a violin never the bass clef', () => {
  const { changes } = findClefs(line([...times(8, 45), ...times(16, 67), ...times(8, 40)]), measures, cello)
  expect(changes.map(({ clef }) => clef)).toEqual(['tenor', 'bass'])
  expect(clefsFor('treble', { kind: 'program', program: 40 }, false)).toEqual(['treble'])
})

// Passages of two bars at least: a shorter one is not worth a clef.
test('whatever a keyboard plays, hardly a note lies beyond three ledger lines', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.integer({ min: 24, max: 106 }), fc.integer({ min: 8, max: 24 })), {
        minLength: 1,
        maxLength: 8,
      }),
      (passages) => {
        const notes = line(passages.flatMap(([key, count]) => times(count, key)))
        const { clef, changes, octaveLines } = findClefs(notes, measures, piano)
        const beyond = notes.filter(({ onsetTicks, note }) => {
          const bar = Math.floor(onsetTicks / (4 * quarter))
          const now = changes.filter((change) => change.bar <= bar).at(-1)?.clef ?? clef
          const under = octaveLines.find(
            (each) => each.startTicks <= onsetTicks && onsetTicks < each.endTicks,
          )
          return ledgerLines(note.key, now, under?.octaves) > 3
        })
        // Between two passages a clef can only change with the bar: up to three quarters of it are in the one before.
        expect(beyond.length).toBeLessThanOrEqual(3 * passages.length)
      },
    ),
  )
})
