/** What a beat is divided in: two in simple meters, three in compound ones. */
export type Division = 2 | 3

/** How dense strokes are at a place of the beat. */
export interface Place {
  readonly at: number
  readonly share: number
}

export const beatWeights = {
  /** Cost of a beat that is longer or shorter than the one before, by the logarithm of their ratio. */
  change: 31,
  /** Beats follow each other with lengths within this share. */
  mostChange: 0.15,
  /** Spread of usual lengths, as a logarithm. */
  lengthSpread: 0.49,
  /** How much the usual length counts, for each beat. */
  length: 0.6,
  /** Cost of each beat. */
  beat: 0.37,
  /** Standard deviation of a stroke around its place. */
  spreadMs: 18,
  /** Density of strokes that belong to no place. */
  anywhere: 0.018,
  divided: {
    2: {
      strong: [
        { at: 0, share: 0.56 },
        { at: 1 / 2, share: 0.163 },
        { at: 1 / 4, share: 0.06 },
        { at: 3 / 4, share: 0.086 },
        { at: 1 / 3, share: 0.045 },
        { at: 2 / 3, share: 0.079 },
      ],
      weak: [
        { at: 0, share: 0.47 },
        { at: 1 / 2, share: 0.56 },
        { at: 1 / 4, share: 0.22 },
        { at: 3 / 4, share: 0.25 },
        { at: 1 / 3, share: 0.107 },
        { at: 2 / 3, share: 0.173 },
      ],
    },
    3: {
      strong: [
        { at: 0, share: 0.56 },
        { at: 1 / 3, share: 0.1 },
        { at: 2 / 3, share: 0.16 },
        { at: 1 / 6, share: 0.03 },
        { at: 1 / 2, share: 0.05 },
        { at: 5 / 6, share: 0.04 },
      ],
      weak: [
        { at: 0, share: 0.47 },
        { at: 1 / 3, share: 0.5 },
        { at: 2 / 3, share: 0.5 },
        { at: 1 / 6, share: 0.12 },
        { at: 1 / 2, share: 0.17 },
        { at: 5 / 6, share: 0.2 },
      ],
    },
  },
} as const

/**
 * How much each measure of a beat (in the order of `beatFeatureNames`), of the beat before and of the one after speaks for a bar line
 * on it: logistic regression over the bars of 77 pieces of J. S. Bach, Haydn, Mozart, Beethoven, R. and C. Schumann, Chopin, Joplin
 * and others, each performed three times with drifting tempo. Of pieces left out, four fifths of bar lines were found.
 */
export const barLineWeights = {
  own: [-0.25, 0.55, 0.38, 0.9, 0.19, 0.21, 0.1, -0.93, 0.13, 0.44],
  before: [0.26, -0.5, -0.18, -0.53, -0.16, -0.06, -0.1, 0.7, -0.24, -0.33],
  after: [-0.14, -0.22, -0.23, -0.48, -0.09, -0.18, -0.01, 0.64, -0.05, -0.1],
  always: -0.81,
} as const

/** Costs, as negative logarithms, where bars begin and how they are counted. */
export const barCosts = {
  /** For each beat, of bars of so many beats: two to the bar is seldom told apart from four. */
  perBeat: { 2: 0.1, 3: 0, 4: 0 },
  /** Of so many beats before the first bar line; the last one for more. */
  pickup: [0, 0.6, 4],
} as const
