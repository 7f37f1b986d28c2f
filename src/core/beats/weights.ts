/** What a beat is divided in: two in simple meters, three in compound ones. */
export type Division = 2 | 3

/** How dense strokes are at a place of the beat. */
export interface Place {
  readonly at: number
  readonly share: number
}

/** What the finding of beats weighs. The search that found these numbers was not kept: as good as chosen by hand. */
export const beatWeights = {
  /** Cost of a beat that is longer or shorter than the one before, by the logarithm of their ratio. */
  change: 31.0,
  /** Beats follow each other with lengths within this share. */
  mostChange: 0.15,
  /** Spread of usual lengths, as a logarithm. */
  lengthSpread: 0.49,
  /** How much the usual length counts, for each beat. */
  length: 1.6,
  /** Cost of each beat. */
  beat: 0.39,
  /** Standard deviation of a stroke around its place. */
  spreadMs: 13.0,
  /** Density of strokes that belong to no place. */
  anywhere: 0.018,
  divided: {
    2: {
      strong: [
        { at: 0, share: 0.96 },
        { at: 1 / 2, share: 0.16 },
        { at: 1 / 4, share: 0.079 },
        { at: 3 / 4, share: 0.085 },
        { at: 1 / 3, share: 0.061 },
        { at: 2 / 3, share: 0.079 },
      ],
      weak: [
        { at: 0, share: 0.33 },
        { at: 1 / 2, share: 0.93 },
        { at: 1 / 4, share: 0.24 },
        { at: 3 / 4, share: 0.33 },
        { at: 1 / 3, share: 0.099 },
        { at: 2 / 3, share: 0.13 },
      ],
    },
    3: {
      strong: [
        { at: 0, share: 0.88 },
        { at: 1 / 3, share: 0.033 },
        { at: 2 / 3, share: 0.2 },
        { at: 1 / 6, share: 0.061 },
        { at: 1 / 2, share: 0.039 },
        { at: 5 / 6, share: 0.04 },
      ],
      weak: [
        { at: 0, share: 0.44 },
        { at: 1 / 3, share: 0.71 },
        { at: 2 / 3, share: 0.38 },
        { at: 1 / 6, share: 0.08 },
        { at: 1 / 2, share: 0.17 },
        { at: 5 / 6, share: 0.18 },
      ],
    },
  },
} as const

/** How the choice between beats in twos and in threes is made, for each stroke. */
export const divisionWeights = {
  /** How much bars that stand out speak for beats, besides what the strokes say. */
  bars: 0.4,
  /** Beats in threes are rarer. */
  threes: 0.19,
} as const

/** What makes a stroke strong. */
export const strengthWeights = {
  /** For each doubling of the notes in it. */
  notes: 0.34,
  /** Held for so long, and longer, as a share of this. */
  held: 1.8,
  heldMs: 670.0,
  /** The same of the time until the next stroke. */
  alone: 0.22,
  aloneMs: 600.0,
  /** For each octave below the middle of what is played, up to so many. */
  deep: 0.32,
  mostDeep: 1.5,
  /** For each 20 steps of velocity above the usual. */
  loud: 0.5,
} as const

/**
 * How much each measure of a beat (in the order of `beatFeatureNames`), of the beat before and of the one after speaks for a bar line
 * on it: logistic regression over the bars of 66 pieces of J. S. Bach, Haydn, Mozart, Beethoven, R. and C. Schumann, Joplin and
 * others, each performed three times with drifting tempo; none of them is among those of the tests.
 */
export const barLineWeights = {
  own: [-0.12, 0.5, 0.36, 0.95, 0.13, 0.22, 0.06, -1.02, 0.17, 0.42],
  before: [0.17, -0.45, -0.13, -0.55, -0.16, -0.07, -0.03, 0.65, -0.23, -0.27],
  after: [-0.18, -0.21, -0.27, -0.52, -0.03, -0.18, -0.04, 0.76, -0.06, -0.14],
  always: -0.77,
} as const

/** Costs, as negative logarithms, where bars begin and how they are counted. */
export const barCosts = {
  /** Beats are not independent of each other: what they say together is taken at this. */
  trust: 0.4,
  /** For each beat, of bars of so many beats: two to the bar is seldom told apart from four. */
  perBeat: { 2: 0.1, 3: 0, 4: 0 },
  /** Of so many beats before the first bar line; the last one for more. */
  pickup: [0, 0.6, 4],
} as const
