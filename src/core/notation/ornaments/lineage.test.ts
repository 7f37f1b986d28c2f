import fc from 'fast-check'
import { isBalanced } from '../../ledger/ledger'
import type { Instrument } from '../../midi/instrument'
import { scoreOf } from '../../project/onPage'
import { type PlayedNote, pieceFor } from './ornamentedPiece.testing'

const instruments: readonly Instrument[] = [
  { kind: 'drums' },
  // Piano, marimba, timpani, flute.
  ...[0, 12, 47, 73].map((program): Instrument => ({ kind: 'program', program })),
]

/** Notes so quick that they are rolls, flams, slides, trills and grace notes in every mixture. */
const quick = fc.array(
  fc.record({
    stepMs: fc.integer({ min: 0, max: 130 }),
    lengthMs: fc.integer({ min: 30, max: 500 }),
    key: fc.integer({ min: 36, max: 46 }),
    velocity: fc.integer({ min: 10, max: 127 }),
  }),
  { minLength: 1, maxLength: 60 },
)

test('whatever is read as an ornament, each note that was played stands at exactly one head', () => {
  fc.assert(
    fc.property(quick, fc.constantFrom(...instruments), fc.boolean(), (steps, instrument, foldsRepeats) => {
      let atMs = 0
      const notes = steps.map(({ stepMs, lengthMs, key, velocity }): PlayedNote => {
        atMs += stepMs
        return [0, atMs, lengthMs, key, velocity]
      })
      const piece = pieceFor(instrument, ...notes)
      const [part] = scoreOf({
        ...piece,
        scoreSettings: { ...piece.scoreSettings, foldsRepeats, minVelocity: 0, minLengthMs: 0 },
      }).parts
      const ids = part!.measures.flatMap((voices) =>
        voices.flatMap(({ elements }) =>
          elements.flatMap((element) =>
            element.kind === 'chord'
              ? [...element.graces, ...element.notes.filter((note) => !note.tiesFromPrevious)].flatMap(
                  ({ noteIds }) => noteIds,
                )
              : [],
          ),
        ),
      )
      expect(ids.sort((a, b) => a - b)).toEqual(notes.map((_, index) => index + 1))
      expect(isBalanced(part!.ledger)).toBe(true)
    }),
    { numRuns: 300 },
  )
})
