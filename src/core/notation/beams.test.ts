import fc from 'fast-check'
import { addBeams } from './beams'
import type { ScoreElement } from './score'

const eighth = 5040
const time = (startTicks: number) => ({
  startTicks,
  durationTicks: eighth / 2,
  value: { type: '16th' as const, dots: 0 as const },
  tuplet: null,
})
const chord = (startTicks: number): ScoreElement => ({
  kind: 'chord',
  ...time(startTicks),
  notes: [],
  beams: [],
  articulations: [],
  graces: [],
  crossesTo: null,
  lyric: null,
})
const rest = (startTicks: number): ScoreElement => ({
  kind: 'rest',
  ...time(startTicks),
  isWholeMeasure: false,
  isHidden: false,
})
/** "x" a sixteenth, "." its rest. */
const beat = (pattern: string) =>
  [...pattern].map((sign, index) => (sign === 'x' ? chord : rest)((index * eighth) / 2))
const beamsOf = (pattern: string, goesOverRests: boolean) =>
  addBeams(beat(pattern), eighth * 2, goesOverRests).map((element) =>
    element.kind === 'chord' ? (element.beams[0] ?? '') : '.',
  )

test('a rest ends a beam, or beams go over it within the beat', () => {
  expect(beamsOf('x.xx', false)).toEqual(['', '.', 'begin', 'end'])
  expect(beamsOf('x.xx', true)).toEqual(['begin', '.', 'continue', 'end'])
  expect(beamsOf('.xx.', true)).toEqual(['.', 'begin', 'end', '.'])
  expect(beamsOf('xx.xx', true)).toEqual(['begin', 'continue', '.', 'end', ''])
})

test('every beam that begins ends, whatever stands between', () => {
  fc.assert(
    fc.property(fc.stringMatching(/^[x.]{1,16}$/), fc.boolean(), (pattern, goesOverRests) => {
      let open = 0
      for (const beam of beamsOf(pattern, goesOverRests)) {
        if (beam === 'begin') open++
        if (beam === 'end') open--
        expect([0, 1]).toContain(open)
      }
      expect(open).toBe(0)
    }),
  )
})
