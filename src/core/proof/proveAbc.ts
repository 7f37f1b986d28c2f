import { readAbc } from '../formats/readAbc/readAbc'
import type { ScoreHeadings } from '../notation/headings'
import type { Score } from '../notation/score'
import { performedScore } from '../notation/writtenMusic/performedScore'
import { TICKS_PER_QUARTER } from '../time/units'
import { compareNotes, type Proof } from './compare'
import { expectedScoreNotes } from './expected'

/** Tuplets that go into no ticks are rounded. */
const toleranceTicks = TICKS_PER_QUARTER / 480

/**
 * Reads a tune back, taken apart by the parser of abcjs, which shares no code with the writer, and compares its notes with the score,
 * staff by staff. Percussion is compared by onset alone, small notes by how many there are.
 */
export function proveAbc(text: string, score: Score, headings: ScoreHeadings): Proof {
  const found = expectedScoreNotes(performedScore(readAbc(text).music, 1).score)
  return compareNotes(
    expectedScoreNotes(score).map((staff, index) => {
      const { name } = headings.parts[staff.partIndex]!
      const plain = (notes: typeof staff.notes = []) =>
        staff.isPercussion ? notes.map((note) => ({ ...note, key: 0 })) : notes
      return {
        name: staff.staff > 1 ? `${name}, lower staff` : name,
        expected: plain(staff.notes),
        found: plain(found[index]?.notes),
      }
    }),
    toleranceTicks,
  )
}
