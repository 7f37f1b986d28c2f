import { readMei } from '../formats/readMei/readMei'
import type { ScoreHeadings } from '../notation/headings'
import type { Score } from '../notation/score'
import { performedScore } from '../notation/writtenMusic/performedScore'
import { TICKS_PER_QUARTER } from '../time/units'
import { compareNotes, type Proof } from './compare'
import { expectedScoreNotes } from './expected'
import { endedInTurn } from './proveMusicXml'

/** Tuplets that go into no ticks are rounded. */
const toleranceTicks = TICKS_PER_QUARTER / 480

/**
 * Reads MEI back that an engraver wrote, with the reader here, which shares no code with it, and compares it with the score, staff by
 * staff. Percussion is compared by onset alone.
 */
export function proveMei(mei: string, score: Score, headings: ScoreHeadings): Proof {
  const expected = expectedScoreNotes(score)
  const found = expectedScoreNotes(performedScore(readMei(mei).music, 1).score)
  return compareNotes(
    expected.map((staff, index) => {
      const own = found[index]
      const plain = (notes: typeof staff.notes) =>
        staff.isPercussion ? notes.map((note) => ({ ...note, key: 0 })) : notes
      const { name } = headings.parts[staff.partIndex]!
      return {
        name: staff.staff > 1 ? `${name}, lower staff` : name,
        expected: endedInTurn(plain([...staff.notes, ...small(staff.graceKeys)])),
        found: endedInTurn(plain([...(own?.notes ?? []), ...small(own?.graceKeys ?? [])])),
      }
    }),
    toleranceTicks,
  )
}

/** Notes in small print have no place in the bar: they are compared by their keys, in order. */
function small(keys: readonly number[]) {
  return [...keys].sort((a, b) => a - b).map((key) => ({ key, onsetTicks: -1, durationTicks: 0 }))
}
