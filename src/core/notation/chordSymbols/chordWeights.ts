/**
 * What finding chords weighs, in shares of what sounds in a beat. Chosen by hand on triads and sevenths with passing notes, and not fitted to
 * any piece.
 */
export const chordWeights = {
  /** Sound that belongs to no note of the chord. */
  outside: 3,
  /** A note of the chord that does not sound. */
  missing: 0.5,
  missingFifth: 0.25,
  fourNotes: 0.2,
  rare: 0.25,
  notInBass: 0.35,
  changeAtBar: 0.5,
  changeAtHalf: 0.9,
  change: 1.4,
} as const
