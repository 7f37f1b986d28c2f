import type { Milliseconds } from '../time/units'
import { beatFeatures } from './beatFeatures'
import { strokesOf, type TimedNote, type TimedStroke } from './strokes'
import { costOfBeats, trackBeats, usualBeatMs } from './trackBeats'
import { barCosts, barLineWeights, type Division, divisionWeights } from './weights'

/** So many beats a bar can have here. */
export const beatsPerBarChoices = [2, 3, 4] as const
export type BeatsPerBar = (typeof beatsPerBarChoices)[number]

/** Bars of a performance that knew none. */
export interface FoundBars {
  /** Moments of beats, in order; each is after the one before. */
  readonly beatsMs: readonly Milliseconds[]
  readonly division: Division
  readonly beatsPerBar: BeatsPerBar
  /** Beats before the first bar line, less than a bar. */
  readonly pickupBeats: number
  /** 0 to 1: how much likelier these bars are than the next best ones. */
  readonly confidence: number
}

/** Fewer strokes than this have no bars to be found in. */
const fewestStrokes = 4
/** What is longer than this is more than one performance, and would take more memory than there is. */
const longestMs: Milliseconds = 3 * 3_600_000

/** Why no bars can be found in notes; null where they can. */
export function barsProblem(notes: readonly TimedNote[]): string | null {
  return problemOf(notes, strokesOf(notes).length)
}

function problemOf(notes: readonly TimedNote[], strokes: number): string | null {
  if (strokes < fewestStrokes)
    return `${notes.length} ${notes.length === 1 ? 'note is' : 'notes are'} too few to find bars in`
  const hours = (notes.at(-1)!.onsetMs - notes[0]!.onsetMs) / 3_600_000
  return hours > longestMs / 3_600_000
    ? `The notes go on for ${hours.toFixed(1)} hours; bars are found in up to ${longestMs / 3_600_000} hours`
    : null
}

/**
 * Finds beats and bars in what was played without a click.
 *
 * Beats are tracked in twos and in threes (`trackBeats`); then bars of two, three and four beats from each beat are weighed by how much
 * each beat is like one that bars begin with. Sources: S. Dixon 2001 (what makes a beat), F. Krebs and others 2015 (tracking),
 * A. McLeod and M. Steedman, Meter detection and alignment of MIDI performance, ISMIR 2018 (bars from beats).
 *
 * @param notes in order of onset
 * @returns null where `barsProblem` says why there are none
 */
export function findBars(notes: readonly TimedNote[]): FoundBars | null {
  const strokes = strokesOf(notes)
  if (problemOf(notes, strokes.length) !== null) return null
  const readings = ([2, 3] as const).map((division) => {
    const beatsMs = refineBeats(beatsThroughSilence(strokes, division), strokes)
    const bars = weighBars(notes, beatsMs)
    const cost = costOfBeats(strokes, beatsMs, division) / strokes.length
    const weight = divisionWeights.bars * bars.gain - cost - (division === 3 ? divisionWeights.threes : 0)
    return { division, beatsMs, bars, weight }
  })
  const { division, beatsMs, bars } = readings.reduce((best, each) =>
    each.weight > best.weight ? each : best,
  )
  return { division, beatsMs, ...bars.best, confidence: bars.confidence }
}

/**
 * The bars of beats that are known, since they were tapped: where they begin, and how many beats they have.
 *
 * @param notes in order of onset
 */
export function barsOfBeats(
  notes: readonly TimedNote[],
  beatsMs: readonly Milliseconds[],
  division: Division,
): FoundBars {
  const { best, confidence } = weighBars(notes, beatsMs)
  return { division, beatsMs, ...best, confidence }
}

interface Bars {
  readonly beatsPerBar: BeatsPerBar
  readonly pickupBeats: number
}

/** Bars of every kind from every beat, by how likely they are. */
function weighBars(
  notes: readonly TimedNote[],
  beatsMs: readonly Milliseconds[],
): { best: Bars; confidence: number; gain: number } {
  const odds = barLineOdds(notes, beatsMs)
  const ways = beatsPerBarChoices
    .flatMap((beatsPerBar) =>
      Array.from({ length: beatsPerBar }, (_, pickupBeats) => {
        let said = 0
        for (const [beat, odd] of odds.entries())
          said -=
            (beat % beatsPerBar === pickupBeats ? Math.log1p(Math.exp(-odd)) : Math.log1p(Math.exp(odd))) +
            barCosts.perBeat[beatsPerBar]
        const cost = barCosts.pickup[Math.min(pickupBeats, barCosts.pickup.length - 1)]!
        return { beatsPerBar, pickupBeats, said, likelihood: barCosts.trust * said - cost }
      }),
    )
    .sort((a, b) => b.likelihood - a.likelihood)
  const [best, next] = ways
  const { beatsPerBar, pickupBeats, said, likelihood } = best!
  const lead = next ? likelihood - next.likelihood : 0
  return {
    best: { beatsPerBar, pickupBeats },
    confidence: 1 / (1 + Math.exp(-lead)),
    gain: (said - chance(beatsPerBar) * odds.length) / Math.max(1, odds.length),
  }
}

/** What is gained by beats that say nothing, each: one of them in a bar begins it. */
function chance(beatsPerBar: BeatsPerBar): number {
  const share = 1 / beatsPerBar
  return share * Math.log(share) + (1 - share) * Math.log(1 - share)
}

/** How likely a bar begins on each beat, as the logarithm of odds. */
function barLineOdds(notes: readonly TimedNote[], beatsMs: readonly Milliseconds[]): number[] {
  if (beatsMs.length < 2) return beatsMs.map(() => 0)
  const features = beatFeatures(notes, beatsMs)
  const dot = (weights: readonly number[], row: readonly number[] | undefined) =>
    row ? weights.reduce((sum, weight, index) => sum + weight * row[index]!, 0) : 0
  return features.map(
    (row, beat) =>
      barLineWeights.always +
      dot(barLineWeights.own, row) +
      dot(barLineWeights.before, features[beat - 1]) +
      dot(barLineWeights.after, features[beat + 1]),
  )
}

/** After a silence of this length nobody counts on. */
const longestSilenceMs: Milliseconds = 8000

/** Beats of what is played between silences, each tracked on its own, with even beats through the silences. */
function beatsThroughSilence(strokes: readonly TimedStroke[], division: Division): Milliseconds[] {
  const beatsMs: Milliseconds[] = []
  let first = 0
  for (let index = 1; index <= strokes.length; index++) {
    const isEnd = index === strokes.length
    if (!isEnd && strokes[index]!.onsetMs - strokes[index - 1]!.onsetMs <= longestSilenceMs) continue
    const played = strokes.slice(first, index)
    const own = withinPlaying(trackBeats(played, division), played)
    const lastMs = beatsMs.at(-1)
    if (lastMs !== undefined && own[0] !== undefined) {
      const usualMs = own.length > 1 ? own[1]! - own[0] : usualBeatMs
      const between = Math.max(1, Math.round((own[0] - lastMs) / usualMs))
      for (let beat = 1; beat < between; beat++) beatsMs.push(lastMs + ((own[0] - lastMs) * beat) / between)
    }
    beatsMs.push(...own)
    first = index
  }
  return beatsMs
}

/** The first beat is the one the first stroke lies on or in, the last the one the last stroke does. */
function withinPlaying(
  beatsMs: readonly Milliseconds[],
  strokes: readonly { readonly onsetMs: Milliseconds }[],
): Milliseconds[] {
  const [firstMs, lastMs] = [strokes[0]!.onsetMs + earlyMs, strokes.at(-1)!.onsetMs + earlyMs]
  return beatsMs.filter((beatMs, index) => beatMs <= lastMs && (beatsMs[index + 1] ?? lastMs) > firstMs)
}

/** A stroke that comes so much before a beat is on it. */
const earlyMs: Milliseconds = 60

/** A beat lies where its strokes lie, and between its neighbours where there are none. */
export function refineBeats(
  beatsMs: readonly Milliseconds[],
  strokes: readonly { readonly onsetMs: Milliseconds; readonly strength: number }[],
): Milliseconds[] {
  let next = 0
  const struck = beatsMs.map((beatMs, index) => {
    const lengthMs = (beatsMs[index + 1] ?? beatMs) - (beatsMs[index - 1] ?? beatMs)
    const reachMs = Math.min(60, lengthMs / 16)
    let [sum, weight] = [0, 0]
    while (next < strokes.length && strokes[next]!.onsetMs < beatMs - reachMs) next++
    for (let at = next; at < strokes.length && strokes[at]!.onsetMs <= beatMs + reachMs; at++) {
      sum += strokes[at]!.onsetMs * strokes[at]!.strength
      weight += strokes[at]!.strength
    }
    return weight > 0 ? sum / weight : null
  })
  return beatsMs.map((beatMs, index) => {
    const own = struck[index]
    if (own !== null && own !== undefined) return own
    const [before, after] = [struck[index - 1], struck[index + 1]]
    return before && after ? (before + after) / 2 : beatMs
  })
}
