/** What the reading of dynamics weighs. Set by ear and eye on invented phrases; nothing was fitted. */
export const dynamicWeights = {
  /** The least velocity of each level: half way between 33, 49, 64, 80, 96 and 112, as levels are usually played back. */
  levelFrom: [0, 41, 57, 72, 88, 104],
  /** How much the force of notes varies that are meant to be alike. */
  spread: 7,
  /** What a new stretch must save, as a negative natural logarithm; one that rises or falls must save more. */
  newLevel: 9,
  newHairpin: 11,
  /** A change smaller than this is no hairpin, nor is one over fewer quarters. */
  leastHairpin: 16,
  shortestHairpinQuarters: 1.5,
  /** A stretch that goes on for longer is taken as two; their level is printed once. */
  mostStrokesInStretch: 96,
  /** So many strokes on either side tell what is usual around a stroke. */
  medianReach: 2,
  /** A note this much above its surroundings is accented, unless so large a share of all would be. */
  accentAbove: 18,
  mostAccented: 0.25,
} as const
