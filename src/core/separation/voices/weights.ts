/**
 * What the separation of lines weighs. Costs are negative natural logarithms of likelihoods, so that they add up. Fitted by
 * coordinate search on half of a collection of chorales, quartets, motets and madrigals, merged to one channel, as written and
 * with errors of 15 ms; the other half came out the same within a hundredth (docs/reports.md has what is reached). The search was not kept as a command.
 */
export const lineWeights = {
  /** For each semitone from one note of a voice to the next, up to `mostLeap`. */
  leap: 0.145,
  mostLeap: 16,
  /** A voice that pauses: times the binary logarithm of one more than the quarters it is silent. */
  pause: 0.8,
  /** A voice that plays on over its own note, times the part of that note still to come; up to `slur` of it means nothing. */
  overlap: 19,
  slur: 0.12,
  /** For each voice that sounds on at the wrong side of a new note, and for voices that cross in one stroke. */
  crossing: 3,
  crossingStroke: 3,
  /** Distance from the voice's register, squared, in units of `registerSemitones`. */
  register: 0.5,
  registerSemitones: 5,
  mostRegister: 9,
  /** A chord inside a voice; more where its notes are of unlike length (the shorter under `evenLength`) or wider than an octave. */
  chord: 6,
  unevenChord: 2,
  evenLength: 0.6,
  chordSemitones: 12,
  wideChord: 0.3,
  /** A chord in a voice that accompanies. */
  accompanyingChord: 0.2,
  /** A note that might as well be another voice's, if that costs no more than this: e to this many times less likely. */
  unsure: 3,
} as const

/**
 * What the division between hands weighs. Fitted on eight keyboard pieces from 1788 to 1899 written on two staves, rounded towards
 * where the search began: they are few, and to be trusted only so far.
 */
export const handWeights = {
  /** Rounds of dividing and finding where the hands are. */
  rounds: 3,
  /** Where the hands are before anything is known, as keys, and how many notes that counts for. */
  leftMiddle: 51,
  rightMiddle: 76,
  usualWeight: 2,
  /** A hand is where its last notes were: each counts this much of the one after it. */
  memory: 0.8,
  /** For each semitone the split moves; less after a pause of the music. */
  move: 0.16,
  moveEase: 0.5,
  /** For each semitone beyond what a hand reaches. */
  span: 0.4,
  reachSemitones: 12,
  /** For each semitone from where the hand is, and again on the side of the other hand. */
  place: 0.06,
  mostPlace: 24,
  inwards: 0.02,
  /** The split lies in the middle of a gap rather than at its edge. */
  edge: 0.12,
  /** Notes that begin and end together are one hand's; notes of unlike length (the shorter under `evenLength`) may be either's. */
  cutChord: 1,
  evenLength: 0.7,
} as const
