/** Weights of `spelling.ts`. The search that found them was not kept: as good as chosen by hand. */
export const spellingWeights = {
  rounds: 4,
  before: 12,
  after: 20,
  majorMiddle: 2.3,
  minorMiddle: 2.8,
  /** Names within this of the middle are in the key. */
  inside: 2.1,
  key: 0.22,
  around: 0.25,
  double: 0.3,
  leading: 2.64,
  coming: 0.72,
  noStep: 0.3,
  strokesBack: 2,
  longestGapTicks: 10_657,
} as const
