/** A period that a window of sound may have. */
export interface Period {
  readonly frequencyHz: number
  /** How exactly the sound repeats with it, from 0 to 1. */
  readonly clarity: number
}

/**
 * The periods at which a window is like itself: the tops of its likeness, found between samples by a parabola. (McLeod and Wyvill look for
 * them between passages through nothing, of which there are none where the sound lies on a slow wave or a steady offset.) The frequency is read from the last of the same period's multiples that can be told, so that its error is
 * divided by their number.
 *
 * @param likeness by lag (`SquareDifference`)
 * @param longestSamples no lag beyond this is looked at: too little of the window is left to compare
 * @returns from the shortest period to the longest
 */
export function periodsOf(likeness: Float32Array, sampleRate: number, longestSamples: number): Period[] {
  const tops: { lag: number; height: number }[] = []
  const end = Math.min(longestSamples, likeness.length - 2)
  let low = 1
  let high = 0
  for (let lag = 1; lag <= end; lag++) {
    const here = likeness[lag]!
    if (low === 0) {
      // Rising, or just behind a top.
      if (here > likeness[high]!) high = lag
      else if (here < likeness[high]! - leastFall) {
        if (likeness[high]! > leastClarity) tops.push(between(likeness, high))
        low = lag
      }
    } else if (here < likeness[low]!) low = lag
    else if (here > likeness[low]! + leastFall) {
      low = 0
      high = lag
    }
  }
  return tops.map(({ lag: period, height }) => ({
    frequencyHz: sampleRate / refined(period, height, tops),
    clarity: Math.min(1, Math.max(0, height)),
  }))
}

const leastClarity = 0.2
/** What lies between two tops is at least this much lower. */
const leastFall = 0.1

/** A period as its multiples tell it. */
function refined(period: number, height: number, tops: readonly { lag: number; height: number }[]): number {
  let best = period
  let multiple = 1
  for (const top of tops) {
    const times = Math.round(top.lag / best)
    if (times <= multiple || times > 2 * multiple + 1) continue
    if (Math.abs(top.lag / best - times) > 0.12 || top.height < height * 0.9) continue
    best = top.lag / times
    multiple = times
  }
  return best
}

/** The top near a sample: of the parabola through it and its neighbours, which lie closer together where periods are short. */
function between(values: Float32Array, index: number): { lag: number; height: number } {
  const step = index < shortLag && values[index]! > worthHeight ? 0.25 : 1
  let place = index
  let middle = values[index]!
  if (step < 1)
    for (let each = index - 0.75; each <= index + 0.75; each += step) {
      const height = bandLimited(values, each)
      if (height > middle) {
        place = each
        middle = height
      }
    }
  const left = step < 1 ? bandLimited(values, place - step) : values[index - 1]!
  const right = step < 1 ? bandLimited(values, place + step) : values[index + 1]!
  const bend = left - 2 * middle + right
  const shift = bend === 0 ? 0 : Math.max(-0.5, Math.min(0.5, (0.5 * (left - right)) / bend))
  return { lag: place + shift * step, height: middle - 0.25 * (left - right) * shift }
}

/** Below this many samples a parabola through three of them misses the height of a top of a bright sound. */
const shortLag = 320
/** Lower tops are those of no period that is heard; how high they are exactly does not matter. */
const worthHeight = 0.6

/**
 * A value at a quarter of the way between samples, by the sinc of what is around under a Hann window; likeness is the same for lags before
 * and after nothing.
 */
function bandLimited(values: Float32Array, place: number): number {
  const before = Math.floor(place)
  const quarter = Math.round((place - before) * 4)
  if (quarter === 0) return values[Math.abs(before)]!
  const weights = sincs[quarter - 1]!
  let sum = 0
  for (let tap = 0; tap < weights.length; tap++)
    sum += (values[Math.abs(before - taps + 1 + tap)] ?? 0) * weights[tap]!
  return sum
}

const taps = 10
/** For one, two and three quarters of the way, what each sample around weighs. */
const sincs = [0.25, 0.5, 0.75].map((quarters) =>
  Float64Array.from({ length: 2 * taps }, (_, tap) => {
    const x = Math.PI * (quarters + taps - 1 - tap)
    return ((0.5 + 0.5 * Math.cos(x / (taps + 1))) * Math.sin(x)) / x
  }),
)

/** A frequency that is heard, and how likely it is the one. */
export interface PitchCandidate {
  readonly frequencyHz: number
  /** All candidates of a window together have 1 at most; the rest is that there is no pitch. */
  readonly probability: number
}

/**
 * How likely each period is the one that is heard. McLeod and Wyvill take the first whose clarity comes near to the highest; how near is a
 * matter of taste, so many are asked, each with its share (as M. Mauch and S. Dixon do with the threshold of YIN: "pYIN", ICASSP 2014).
 * What is near is told by how exactly the sound repeats at all: where it does nearly perfectly, a period that falls short by a few
 * hundredths is that of a harmonic; under noise it says nothing.
 */
export function candidatesOf(periods: readonly Period[]): PitchCandidate[] {
  const highest = periods.reduce((most, { clarity }) => Math.max(most, clarity), 0)
  if (highest < 0.3) return []
  const shares = new Float32Array(periods.length)
  const nearness = nearest + unclearTimes * (1 - highest)
  for (const { times, share } of manners) {
    const taken = periods.findIndex(({ clarity }) => clarity >= highest - nearness * times)
    if (taken >= 0) shares[taken]! += share
  }
  const voiced = voicedness(highest)
  return periods
    .map(({ frequencyHz }, index) => ({ frequencyHz, probability: shares[index]! * voiced }))
    .filter(({ probability }) => probability > 0.001)
}

/** The likeliest of several; null when there is none. */
export function likeliestOf(candidates: readonly PitchCandidate[]): PitchCandidate | null {
  let best: PitchCandidate | null = null
  for (const candidate of candidates) if (!best || candidate.probability > best.probability) best = candidate
  return best
}

/** How likely a window that repeats this exactly has a pitch at all. */
function voicedness(clarity: number): number {
  return 1 / (1 + Math.exp(-(clarity - 0.62) * 14))
}

/** How far below the highest clarity is near: in a sound that repeats perfectly, and how many times what the highest lacks. */
const nearest = 0.03
const unclearTimes = 1
/** Stricter and easier ways of asking, around 1. */
const manners = (() => {
  const all = Array.from({ length: 17 }, (_, index) => 2 ** ((index - 8) / 4))
  const weights = all.map((times) => Math.exp(-((Math.log2(times) / 0.7) ** 2) / 2))
  const sum = weights.reduce((total, weight) => total + weight, 0)
  return all.map((times, index) => ({ times, share: weights[index]! / sum }))
})()
