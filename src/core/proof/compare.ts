import { FileProblem } from '../border/fileProblem'
import { byPlace, type ProofNote } from './expected'

/** Outcome of reading a file back and comparing it note for note with what should be in it. */
export interface Proof {
  readonly isProved: boolean
  readonly expectedNotes: number
  readonly foundNotes: number
  /** The first differences in plain words; empty when proved. */
  readonly differences: readonly string[]
}

/** What is said of a file that its reader cannot read at all: that one form fails is no reason to withhold the others. */
export function provedOrUnread(prove: () => Proof): Proof {
  try {
    return prove()
  } catch (error) {
    if (!(error instanceof FileProblem)) throw error
    return { isProved: false, expectedNotes: 0, foundNotes: 0, differences: [error.message] }
  }
}

/** As many differences as are worth reading. */
const mostDifferences = 8

/**
 * Compares part by part: every note must be found with its key, onset and length, and no other.
 *
 * @param toleranceTicks what the reader's own time base may round away
 */
export function compareNotes(
  parts: readonly {
    readonly name: string
    readonly expected: readonly ProofNote[]
    readonly found: readonly ProofNote[]
  }[],
  toleranceTicks: number,
): Proof {
  const differences: string[] = []
  let expectedNotes = 0
  let foundNotes = 0
  for (const { name, expected, found } of parts) {
    expectedNotes += expected.length
    foundNotes += found.length
    // Same key first, so that rounding of onsets cannot change the order in which notes are compared.
    const order = (a: ProofNote, b: ProofNote) => a.key - b.key || byPlace(a, b)
    const [left, right] = [[...expected].sort(order), [...found].sort(order)]
    if (left.length !== right.length)
      differences.push(`${name}: ${left.length} notes written, ${right.length} read back`)
    for (let i = 0; i < Math.min(left.length, right.length); i++) {
      const [a, b] = [left[i]!, right[i]!]
      const differs =
        a.key !== b.key ||
        Math.abs(a.onsetTicks - b.onsetTicks) > toleranceTicks ||
        Math.abs(a.durationTicks - b.durationTicks) > toleranceTicks
      if (!differs) continue
      differences.push(
        `${name}: key ${a.key} at tick ${a.onsetTicks} for ${a.durationTicks} was read as key ${b.key} at ${b.onsetTicks} for ${b.durationTicks}`,
      )
      if (left.length !== right.length) break
    }
  }
  return {
    isProved: differences.length === 0,
    expectedNotes,
    foundNotes,
    differences: differences.slice(0, mostDifferences),
  }
}
