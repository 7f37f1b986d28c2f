import type { Milliseconds, Ticks } from '../../time/units'
import type { Beat, BeatGrid } from './beats'
import { patternWeights, timingWeights, usualWeights } from './weights'

/** Notes struck together: they get one written onset. */
export interface Cluster {
  /** Mean of the notes' onsets. */
  readonly onsetTicks: Ticks
  readonly size: number
  /** Mean of how long its notes are held. */
  readonly heldTicks: Ticks
  readonly keys: readonly number[]
}

export interface DecidedOnsets {
  /** Written onset of each cluster. */
  readonly onsetTicks: Ticks[]
  /** Grid chosen for each beat. */
  readonly grids: BeatGrid[]
  /** Spread of the player's timing around the written onsets. */
  readonly deviationMs: Milliseconds
  /** How early (negative) or late the player is on the whole. */
  readonly biasMs: Milliseconds
}

/** The steps that are struck in a beat, as bits, with the kind of grid above them; 0 when only the beat itself is. */
type Pattern = number

/** A reading of one beat: where each of its clusters goes, as steps of the grid. */
interface Reading {
  readonly steps: readonly number[]
  readonly pattern: Pattern
  readonly cost: number
}

/** What is known of the player so far: timing, and what this piece does. */
interface PlayerModel {
  readonly deviationMs: Milliseconds
  readonly biasMs: Milliseconds
  /** Negative log of how often two strokes that are not quite together mean one chord. */
  readonly shareCost: number
  readonly habits: ReadonlyMap<Pattern, number>
  readonly beatCount: number
}

/**
 * Decides the written onsets of a performance, a beat's notes together: each beat is read on every grid that it may
 * be divided by, the readings are weighed by how far the notes are from the steps, by how usual the pattern is, and by
 * the habits of this piece (the patterns found in the round before), and the best sequence of grids is found over the
 * whole piece (Viterbi). The player's spread and bias are estimated along the way.
 *
 * A maximum-a-posteriori reading in the sense of D. Temperley, Music and Probability, 2007, chapter 3 (a grid found
 * from onsets by Bayesian inference), with beat patterns in place of independent onsets.
 */
export function decideOnsets(played: readonly Cluster[], beats: readonly Beat[]): DecidedOnsets {
  const lateMs = findShift(played, beats)
  const clusters = shifted(played, beats, lateMs)
  let habits = new Map<Pattern, number>()
  let deviationMs: Milliseconds = timingWeights.firstDeviationMs
  let biasMs: Milliseconds = 0
  let shareCost: number = patternWeights.firstShare
  let chosen: { beat: number; grid: BeatGrid; reading: Reading }[] = []
  let strokesOf: number[][] = []

  for (let round = 0; round < patternWeights.rounds; round++) {
    const player = { deviationMs, biasMs, shareCost, habits, beatCount: 0 }
    const { groups, occupied, readings } = readAll(clusters, beats, player)
    strokesOf = groups
    chosen = bestSequence(occupied, readings, beats).readings
    habits = new Map()
    let sum = 0
    let squares = 0
    let count = 0
    let shared = 0
    let strokes = 0
    for (const { beat, grid, reading } of chosen) {
      habits.set(reading.pattern, (habits.get(reading.pattern) ?? 0) + 1)
      for (const [place, index] of groups[beat]!.entries()) {
        const cluster = clusters[index]!
        if (place > 0) {
          strokes++
          if (reading.steps[place] === reading.steps[place - 1]) shared++
        }
        const deviation =
          (cluster.onsetTicks - stepTicks(beats[beat]!, grid, reading.steps[place]!)) * beats[beat]!.msPerTick
        if (Math.abs(deviation) > timingWeights.slipMs) continue
        sum += deviation * cluster.size
        squares += deviation * deviation * cluster.size
        count += cluster.size
      }
    }
    const { leastShare, mostShare } = patternWeights
    shareCost = bounded(-Math.log((shared + 0.5) / (strokes + 2)), leastShare, mostShare)
    if (count >= timingWeights.fewestNotesToJudge) {
      const { mostBiasMs, biasBelievedAfterNotes, leastDeviationMs, mostDeviationMs } = timingWeights
      const mean = sum / count
      biasMs = bounded(mean, -mostBiasMs, mostBiasMs) * (count / (count + biasBelievedAfterNotes))
      const spreadMs = Math.sqrt(Math.max(0, squares / count - mean * mean))
      deviationMs = bounded(spreadMs, leastDeviationMs, mostDeviationMs)
    }
  }

  const onsetTicks: Ticks[] = new Array(clusters.length).fill(0)
  const grids = beats.map((beat) => beat.grids[0]!)
  for (const { beat, grid, reading } of chosen) {
    if (!isPlain(reading.pattern)) grids[beat] = grid
    for (const [place, index] of strokesOf[beat]!.entries())
      onsetTicks[index] = Math.max(0, stepTicks(beats[beat]!, grid, reading.steps[place]!))
  }
  return { onsetTicks, grids, deviationMs, biasMs: lateMs + biasMs }
}

/**
 * How late a player is throughout (early when negative): the shift under which the piece reads most usually. A small one is found on
 * any music; of a large one the strong places tell, since a piece that begins most of its notes between the beats is rare.
 */
function findShift(clusters: readonly Cluster[], beats: readonly Beat[]): Milliseconds {
  const { shift } = timingWeights
  const first = Math.floor(Math.max(0, clusters.length - shift.strokesLookedAt) / 3)
  const sample = clusters.slice(first, first + shift.strokesLookedAt)
  if (sample.length < timingWeights.fewestNotesToJudge || isOnGrid(sample, beats)) return 0
  const mayBeFar = isVaried(sample, beats) || isSustained(sample, beats)
  const stepMs = stepMsAt(beats, sample[0]!.onsetTicks)
  let best = { lateMs: 0, cost: Number.POSITIVE_INFINITY }
  for (const lateMs of shiftsToTry(sample, beats, stepMs)) {
    const isFar = Math.abs(lateMs) > stepMs / 2
    if (isFar && !mayBeFar) continue
    const player = {
      deviationMs: timingWeights.firstDeviationMs,
      biasMs: 0,
      shareCost: patternWeights.firstShare,
      habits: new Map<Pattern, number>(),
      beatCount: 0,
    }
    const { occupied, readings } = readAll(shifted(sample, beats, lateMs), beats, player)
    const cost =
      bestSequence(occupied, readings, beats).cost +
      (lateMs / shift.usualMs) ** 2 / 2 +
      (isFar ? shift.farCost : 0)
    if (cost < best.cost) best = { lateMs, cost }
  }
  return best.lateMs
}

/**
 * Shifts worth trying: none; and that under which the strokes lie nearest to the steps of the grid, also by a step more or less.
 * Where they lie near no steps at all (triplets), all that are not too large.
 *
 * The place within a step is a mean on the circle (K. Mardia, Statistics of Directional Data, 1972).
 */
function shiftsToTry(
  clusters: readonly Cluster[],
  beats: readonly Beat[],
  stepMs: Milliseconds,
): Milliseconds[] {
  const { mostMs, everyMs, clearPlace } = timingWeights.shift
  let [x, y] = [0, 0]
  for (const steps of stepsInBeat(clusters, beats)) {
    x += Math.cos(2 * Math.PI * steps)
    y += Math.sin(2 * Math.PI * steps)
  }
  const within = (Math.atan2(y, x) / (2 * Math.PI)) * stepMs
  if (Math.hypot(x, y) < clearPlace * clusters.length)
    return Array.from(
      { length: 2 * Math.floor(mostMs / everyMs) + 1 },
      (_, index) => -mostMs + index * everyMs,
    )
  return [0, within, within - stepMs, within + stepMs].filter((lateMs) => Math.abs(lateMs) <= mostMs)
}

/** Where strokes lie in their beat, in steps of its plain grid. */
function stepsInBeat(clusters: readonly Cluster[], beats: readonly Beat[]): number[] {
  let beat = 0
  return clusters.map(({ onsetTicks }) => {
    while (beat + 1 < beats.length && onsetTicks >= beats[beat + 1]!.startTicks) beat++
    const { startTicks, lengthTicks, grids } = beats[beat]!
    return ((onsetTicks - startTicks) / lengthTicks) * grids[0]!.divisions
  })
}

function stepMsAt(beats: readonly Beat[], tick: Ticks): Milliseconds {
  const { lengthTicks, msPerTick, grids } =
    beats.find(({ startTicks, lengthTicks: length }) => tick < startTicks + length) ?? beats.at(-1)!
  return (lengthTicks * msPerTick) / grids[0]!.divisions
}

/** What lies on the grid exactly was put there: nobody plays so. */
function isOnGrid(clusters: readonly Cluster[], beats: readonly Beat[]): boolean {
  const { exactSteps, exactShare } = timingWeights.shift
  const exact = stepsInBeat(clusters, beats).filter(
    (steps) => Math.abs(steps - Math.round(steps)) < exactSteps,
  )
  return exact.length >= exactShare * clusters.length
}

/**
 * Whether strokes lie on several places of their beats. A part that always plays short notes at the same place off the beat is meant
 * so: nothing says that it is late by that much.
 */
function isVaried(clusters: readonly Cluster[], beats: readonly Beat[]): boolean {
  const counts = new Map<number, number>()
  for (const [index, steps] of stepsInBeat(clusters, beats).entries()) {
    const place = Math.round(steps)
    counts.set(place, (counts.get(place) ?? 0) + clusters[index]!.size)
  }
  const all = [...counts.values()].reduce((sum, count) => sum + count, 0)
  return Math.max(...counts.values()) < timingWeights.shift.mostOnOnePlace * all
}

/** Whether notes are held for most of a beat: long notes belong on the beat. */
function isSustained(clusters: readonly Cluster[], beats: readonly Beat[]): boolean {
  const held = clusters.map(({ heldTicks }) => heldTicks).sort((a, b) => a - b)
  return held[held.length >> 1]! > timingWeights.shift.longBeats * beats[0]!.lengthTicks
}

/** Strokes as they would be if the player were not late. */
function shifted(clusters: readonly Cluster[], beats: readonly Beat[], lateMs: Milliseconds): Cluster[] {
  let beat = 0
  return clusters.map((cluster) => {
    while (beat + 1 < beats.length && cluster.onsetTicks >= beats[beat + 1]!.startTicks) beat++
    return { ...cluster, onsetTicks: cluster.onsetTicks - lateMs / beats[beat]!.msPerTick }
  })
}

/** Every beat that has strokes, read on every grid it may have. */
function readAll(clusters: readonly Cluster[], beats: readonly Beat[], player: PlayerModel) {
  const groups = groupByBeat(clusters, beats)
  const occupied = groups.flatMap((group, beat) => (group.length > 0 ? [beat] : []))
  const readings = occupied.map((beat) => {
    const own = groups[beat]!.map((index) => clusters[index]!)
    return beats[beat]!.grids.map((grid) =>
      readBeat(own, beats[beat]!, grid, { ...player, beatCount: occupied.length }),
    )
  })
  return { groups, occupied, readings }
}

export function stepTicks(beat: Beat, grid: BeatGrid, step: number): Ticks {
  return Math.round(beat.startTicks + (beat.lengthTicks * step) / grid.divisions)
}

/** Only the beat itself is struck: says nothing about how it is divided. */
function isPlain(pattern: Pattern): boolean {
  return pattern === 0
}

/** The clusters of each beat; one that is a little ahead of a beat belongs to it. */
function groupByBeat(clusters: readonly Cluster[], beats: readonly Beat[]): number[][] {
  const groups: number[][] = beats.map(() => [])
  let beat = 0
  for (const [index, cluster] of clusters.entries()) {
    while (
      beat + 1 < beats.length &&
      cluster.onsetTicks >= beats[beat + 1]!.startTicks - aheadTicks(beats[beat + 1]!)
    )
      beat++
    groups[beat]?.push(index)
  }
  return groups
}

function aheadTicks(beat: Beat): Ticks {
  return (patternWeights.anticipationSteps * beat.lengthTicks) / beat.grids[0]!.divisions
}

/** The best readings differ in few notes: each cluster tries its two nearest steps, all together. */
function readBeat(clusters: readonly Cluster[], beat: Beat, grid: BeatGrid, player: PlayerModel): Reading {
  const { deviationMs, biasMs } = player
  const stepMs = (beat.lengthTicks * beat.msPerTick) / grid.divisions
  const options = clusters.map((cluster) => {
    const position = ((cluster.onsetTicks - beat.startTicks) * beat.msPerTick - biasMs) / stepMs
    const nearest = clampStep(Math.round(position), grid)
    const second = clampStep(nearest + (position >= nearest ? 1 : -1), grid)
    const cost = (step: number) => cluster.size * distanceCost((position - step) * stepMs, deviationMs)
    const both = [{ step: nearest, cost: cost(nearest) }]
    if (second !== nearest && clusters.length <= patternWeights.mostStrokesTriedBothWays) {
      const secondCost = cost(second)
      if (secondCost - both[0]!.cost < patternWeights.hopeless) both.push({ step: second, cost: secondCost })
    }
    return both
  })
  let best: Reading | undefined
  const steps: number[] = []
  const visit = (place: number, cost: number) => {
    if (best && cost >= best.cost) return
    if (place === clusters.length) {
      const pattern = patternOf(grid, steps)
      const total = cost + patternCost(pattern, grid, steps, player)
      if (!best || total < best.cost) best = { steps: [...steps], pattern, cost: total }
      return
    }
    for (const option of options[place]!) {
      const previous = steps[place - 1]
      if (previous !== undefined && option.step < previous) continue
      let extra = 0
      if (previous !== undefined && option.step === previous)
        extra = clusters[place]!.keys.some((key) => clusters[place - 1]!.keys.includes(key))
          ? patternWeights.sameKeyTogether
          : player.shareCost
      steps[place] = option.step
      visit(place + 1, cost + option.cost + extra)
      steps.length = place
    }
  }
  visit(0, 0)
  if (best) return best
  const forced = options.map((both) => both[0]!.step)
  for (let place = 1; place < forced.length; place++)
    forced[place] = Math.max(forced[place]!, forced[place - 1]!)
  return { steps: forced, pattern: patternOf(grid, forced), cost: patternWeights.forced }
}

function clampStep(step: number, grid: BeatGrid): number {
  return Math.max(0, Math.min(grid.divisions, step))
}

/** Gaussian near the step; far off it grows slowly, since a slip says little about the grid. */
function distanceCost(distanceMs: Milliseconds, deviationMs: Milliseconds): number {
  const ratio = Math.abs(distanceMs) / deviationMs
  const { gaussianDeviations: edge, slipSlope } = timingWeights
  return ratio <= edge ? (ratio * ratio) / 2 : (edge * edge) / 2 + (ratio - edge) * slipSlope
}

const kinds: readonly BeatGrid['kind'][] = ['binary', 'triplet', 'sextuplet']

/** The same steps in their simplest grid: a sextuplet that only strikes thirds is a triplet. */
function patternOf(grid: BeatGrid, steps: readonly number[]): Pattern {
  let struck = 0
  for (const step of steps) if (step < grid.divisions) struck |= 1 << step
  if ((struck & ~1) === 0) return 0
  if (grid.kind === 'sextuplet') {
    if ((struck & 0b101010) === 0) return (1 << 12) | (struck & 1) | ((struck >> 1) & 2) | ((struck >> 2) & 4)
    if ((struck & 0b110110) === 0) return (struck & 1) | 4
  }
  return (kinds.indexOf(grid.kind) << 12) | struck
}

function patternCost(
  pattern: Pattern,
  grid: BeatGrid,
  steps: readonly number[],
  player: PlayerModel,
): number {
  const usual = Math.exp(-usualCost(grid, steps))
  const { priorBeats } = patternWeights
  const share = ((player.habits.get(pattern) ?? 0) + priorBeats * usual) / (player.beatCount + priorBeats)
  return -Math.log(Math.max(share, usualWeights.rarestShare))
}

/** Negative log likelihood of a pattern in music at large: deep subdivisions and lone off-beats are rarer. */
function usualCost(grid: BeatGrid, steps: readonly number[]): number {
  let struck = 0
  for (const step of steps) struck |= 1 << step
  const has = (step: number) => step >= 0 && (struck & (1 << step)) !== 0
  let cost: number = usualWeights.grid[grid.kind]
  if (!has(0)) cost += usualWeights.emptyBeat
  for (let step = 1; step < grid.divisions; step++) {
    if (!has(step)) continue
    if (grid.kind === 'binary') {
      let depth = 0
      while ((step * 2 ** depth) % grid.divisions !== 0 && depth < 4) depth++
      cost += grid.divisions % 3 === 0 ? usualWeights.compoundStep : usualWeights.binaryDepth * depth
      const isLone = depth >= 2 && !has(step - 1) && !has(step + 1)
      if (isLone) cost += step === grid.divisions - 1 ? usualWeights.loneUpbeat : usualWeights.loneDeepStep
    } else cost += usualWeights.tupletStep
  }
  if (grid.kind === 'triplet' && has(1) !== has(2)) cost += usualWeights.halfTriplet
  const run = bitCount(struck & 0b111110)
  if (grid.kind === 'sextuplet' && run < usualWeights.sextupletRunStrokes)
    cost += usualWeights.sextupletWithoutRun
  return cost
}

function bounded(value: number, least: number, most: number): number {
  return Math.max(least, Math.min(most, value))
}

function bitCount(bits: number): number {
  let count = 0
  for (let rest = bits; rest > 0; rest &= rest - 1) count++
  return count
}

/** Viterbi over the grids of the beats that have notes: a piece seldom changes its division from beat to beat. */
function bestSequence(
  occupied: readonly number[],
  readings: readonly Reading[][],
  beats: readonly Beat[],
): { readonly cost: number; readonly readings: { beat: number; grid: BeatGrid; reading: Reading }[] } {
  let costs: number[] = []
  const back: number[][] = []
  for (const [place, options] of readings.entries()) {
    const grids = beats[occupied[place]!]!.grids
    if (place === 0) {
      costs = options.map((reading) => reading.cost)
      back.push(options.map(() => 0))
      continue
    }
    const previousGrids = beats[occupied[place - 1]!]!.grids
    const from: number[] = []
    const next = options.map((reading, index) => {
      let best = Number.POSITIVE_INFINITY
      for (const [previous, cost] of costs.entries()) {
        const plain = isPlain(reading.pattern) || isPlain(readings[place - 1]![previous]!.pattern)
        const isSame = (grids[index]!.kind === 'binary') === (previousGrids[previous]!.kind === 'binary')
        const total = cost + (isSame || plain ? 0 : patternWeights.changeOfDivision)
        if (total < best) {
          best = total
          from[index] = previous
        }
      }
      return best + reading.cost
    })
    back.push(from)
    costs = next
  }
  if (readings.length === 0) return { cost: 0, readings: [] }
  const result: { beat: number; grid: BeatGrid; reading: Reading }[] = new Array(readings.length)
  let state = costs.indexOf(Math.min(...costs))
  for (let place = readings.length - 1; place >= 0; place--) {
    const beat = occupied[place]!
    result[place] = { beat, grid: beats[beat]!.grids[state]!, reading: readings[place]![state]! }
    state = back[place]![state]!
  }
  return { cost: Math.min(...costs), readings: result }
}
