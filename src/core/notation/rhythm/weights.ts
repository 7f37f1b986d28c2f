/**
 * Everything that the reading of rhythm weighs, in one place.
 *
 * Costs are negative natural logarithms of likelihoods, so that they add up: a reading that costs 0.7 more is half as likely.
 * Where no source is named, a value was fitted by hand: so that the share of notes with exactly the written onset and length is
 * highest over the invented scores of `performedScores.testing.ts` (straight, dotted, syncopated, triplets and sextuplets, with
 * and without chords), performed at 100 bpm with Gaussian errors of 15 and 30 ms, notes held for 100 % and 90 %. What comes of
 * it is in docs/performance.md. None stands on an edge: any one of them changed by a fifth moves that share by less than 0.8
 * of a hundredth, nearly all by less than 0.3, except for the longest gate, which is a bound (nobody is taken to hold notes for
 * longer than their value).
 */

/** How far a stroke may be from its step. */
export const timingWeights = {
  /** Where the estimate of the player's spread begins, and the bounds it stays in. */
  firstDeviationMs: 20,
  leastDeviationMs: 6,
  mostDeviationMs: 45,
  /** A player who is early or late throughout is believed up to this much. */
  mostBiasMs: 60,
  /** A player who is late or early throughout: looked for so far, where need be in such steps, on so many strokes, and how much is usual. */
  shift: {
    mostMs: 150,
    everyMs: 25,
    /** Strokes lie near the steps of the grid when their mean on the circle of a step is at least so long. */
    clearPlace: 0.4,
    strokesLookedAt: 96,
    usualMs: 40,
    /** By more than half a step is unusual: so much must speak for it. */
    farCost: 25,
    /** So near to the grid, in steps, and so many of them: put there, not played. */
    exactSteps: 0.03,
    exactShare: 0.9,
    /** More than this on one place of the beat, and shorter than this, in beats: only a shift of up to half a step is looked for. */
    mostOnOnePlace: 0.8,
    longBeats: 0.45,
  },
  /** A bias found on so many notes is believed by half. */
  biasBelievedAfterNotes: 8,
  /** Fewer notes than this tell nothing of a player. */
  fewestNotesToJudge: 4,
  /** A stroke farther off is a slip and says nothing of the player's spread. */
  slipMs: 120,
  /** Up to so many deviations a distance is weighed as Gaussian; beyond, it grows by `slipSlope` for each deviation. */
  gaussianDeviations: 3.5,
  slipSlope: 2,
} as const

/** Which pattern of strokes a beat has. */
export const patternWeights = {
  /** Rounds of reading and learning what this piece does. Three or five give the same on the scores above, within 0.3 %. */
  rounds: 4,
  /** Weight, in beats, of what is usual in music against what this piece does. */
  priorBeats: 6,
  /** Part of the smallest step by which a note may be ahead of its beat and still be counted to it. */
  anticipationSteps: 0.4,
  /** A step that is this much less likely than the nearest (e^9 times) is not tried. */
  hopeless: 9,
  /** In a beat with more strokes than this, each is taken at its nearest step. */
  mostStrokesTriedBothWays: 8,
  /** Strokes one after the other written as one chord: at first, and the bounds of what is learnt. */
  firstShare: 1.5,
  leastShare: 0.2,
  mostShare: 4,
  /** Two strokes of one key can hardly be one chord. */
  sameKeyTogether: 14,
  /** A reading in which nothing fits, taken only where there is no other. */
  forced: 1000,
  /** From beats divided in two to beats divided in three, and back: a piece seldom changes its division. */
  changeOfDivision: 0.7,
} as const

/** How usual a pattern is in music at large: deep subdivisions and lone off-beats are rarer (D. Temperley, 2007, chapter 3). */
export const usualWeights = {
  grid: { binary: 0.4, triplet: 2, sextuplet: 4.5 },
  /** Nothing is struck on the beat. */
  emptyBeat: 0.7,
  /** Each stroke off the beat: binary by its depth (half a beat 1, quarter 2, eighth 3); in threes and sixes the same for all. */
  binaryDepth: 0.35,
  compoundStep: 0.6,
  tupletStep: 0.4,
  /** A stroke on a deep step with none beside it; just before the next beat it is a usual upbeat. */
  loneDeepStep: 0.7,
  loneUpbeat: 0.2,
  /** A triplet with only one of its two inner strokes. */
  halfTriplet: 0.5,
  /** A sextuplet is known by its run; one or two strokes off the beat are something else. */
  sextupletWithoutRun: 4,
  sextupletRunStrokes: 3,
  /** No pattern is rarer than this. */
  rarestShare: 1e-9,
} as const

/** Where a note ends. */
export const endWeights = {
  /** Ends are played less exactly than onsets: so much more spread, and more for long notes. */
  spreadOfOnsets: 1.1,
  /** Ending where the next note of the staff begins costs nothing; on a beat, on its half, on a deeper division: */
  onBeat: 0.9,
  onHalf: 1.3,
  onBinaryStep: 1.9,
  onTupletStep: 1.6,
  /** For each further note of a chord: so much better must ending apart be than ending together. */
  apartForEachNote: 4,
  /** Notes looked at to find the touch: enough to be sure, few enough to be quick. */
  touchSampleNotes: 240,
  /** A note that goes on by more than this over the next one overlaps it; the bounds of what overlapping costs. */
  overlapMs: 80,
  leastOverlap: 0.3,
  mostOverlap: 3.5,
} as const

/** How notes are held. */
export const touchWeights = {
  /** Rounds of finding out, from each start. */
  rounds: 6,
  /** Held as usual, detached, staccato: what share of its value, within which bounds, and how much that varies from note to note. */
  kinds: [
    { usualShare: 0.9, usualGate: 0.95, leastGate: 0.64, mostGate: 1.02, gateBelief: 3, spread: 0.04 },
    { usualShare: 0.06, usualGate: 0.72, leastGate: 0.6, mostGate: 0.82, gateBelief: 6, spread: 0.08 },
    { usualShare: 0.04, usualGate: 0.45, leastGate: 0.25, mostGate: 0.58, gateBelief: 6, spread: 0.13 },
  ],
  /** What is usual counts as much as so many notes. */
  shareBelief: 8,
  /** Shares of the three from which the search starts: even playing, mixed playing, short playing. */
  starts: [
    [0.96, 0.02, 0.02],
    [0.55, 0.2, 0.25],
    [0.1, 0.2, 0.7],
  ],
  /** How often silence is written before the next note, by how far away that is, and as how many notes that counts. */
  rests: [
    { upToBeats: 0.55, share: 0.02, belief: 60 },
    { upToBeats: 1.1, share: 0.12, belief: 3 },
    { upToBeats: 2.1, share: 0.3, belief: 3 },
    { upToBeats: Number.POSITIVE_INFINITY, share: 0.5, belief: 3 },
  ],
  evenStart: [1, 0, 0],
  /** For each millisecond: a note held for as long as it happens, by mistake. */
  strayDensity: 1e-7,
} as const
