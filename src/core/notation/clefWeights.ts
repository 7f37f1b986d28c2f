/** What the choice of clefs weighs, in the cost of a note with three ledger lines. Common practice, set by eye; nothing was fitted. */
export const clefWeights = {
  /** A note with no ledger line, with one, two, three, four; and for each line more. */
  lines: [0, 0.03, 0.15, 1.4, 3.5],
  furtherLine: 3.5,
  /** Another clef at a bar line; another than the usual one at the beginning; each moment away from it, for each clef that is more usual. */
  clefChange: 7,
  otherStart: 8,
  away: 0.1,
  /** An octave line begins; ends; each moment under it, for each octave. */
  octaveBegins: 6,
  octaveEnds: 1,
  underOctaveLine: 0.3,
} as const
