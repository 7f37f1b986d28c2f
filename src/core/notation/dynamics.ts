import type { NoteId } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import type { WrittenLevel } from './amendments/amendment'
import { dynamicWeights as weights } from './dynamicWeights'
import type { WrittenNote } from './rhythm/rhythm'
import { forcesOf, type Swell } from './swell'

/** A level as it is printed, from the softest up. */
export const dynamicMarks = ['pp', 'p', 'mp', 'mf', 'f', 'ff'] as const
export type DynamicMark = (typeof dynamicMarks)[number]

/** A level from a place on. */
export interface Dynamic {
  readonly tick: Ticks
  readonly mark: WrittenLevel
}

/** A gradual change of level. */
export interface Hairpin {
  readonly startTicks: Ticks
  readonly endTicks: Ticks
  readonly kind: 'crescendo' | 'diminuendo'
}

export interface Dynamics {
  readonly levels: readonly Dynamic[]
  readonly hairpins: readonly Hairpin[]
  /** Notes that stand out of their surroundings. */
  readonly accented: ReadonlySet<NoteId>
}

export const noDynamics: Dynamics = { levels: [], hairpins: [], accented: new Set() }

/** The force of a moment: of several notes struck together the strongest is heard. */
interface Stroke {
  readonly tick: Ticks
  readonly velocity: number
}

/** A stretch in which the force stays, or rises or falls evenly. */
interface Stretch {
  readonly first: number
  /** The last stroke of it. */
  readonly last: number
  readonly startVelocity: number
  readonly endVelocity: number
}

/** The level a force is printed as; a line through forces may end below all of them. */
export function markOf(velocity: number): DynamicMark {
  return dynamicMarks[
    Math.max(
      0,
      weights.levelFrom.findLastIndex((from) => velocity >= from),
    )
  ]!
}

/**
 * Finds the dynamics of a part from the force of its notes: the piece is divided into stretches in which the force stays or changes
 * evenly, as few as explain what was played. A level is printed where it becomes another, a hairpin where it changes enough.
 *
 * The best division is found by dynamic programming over all of them (R. Bellman, On the approximation of curves by line segments,
 * 1961).
 *
 * @param written in order of onset
 * @param swell how the part swells while it sounds, where its player did that
 */
export function findDynamics(written: readonly WrittenNote[], swell: Swell | null = null): Dynamics {
  const struck = levelsOf(strokesOf(written), written)
  if (!swell) return struck
  // What swells while it sounds is as loud as that says; accents are struck all the same.
  return { ...levelsOf(forcesOf(swell, written), []), accented: struck.accented }
}

function levelsOf(strokes: readonly Stroke[], written: readonly WrittenNote[]): Dynamics {
  if (strokes.length === 0) return noDynamics
  const calm = withoutAccents(strokes)
  const stretches = divide(calm)
  const levels: Dynamic[] = []
  const hairpins: Hairpin[] = []
  const accented = new Set<NoteId>()
  const levelAt = new Map<Ticks, number>()
  const say = (tick: Ticks, mark: DynamicMark) => {
    if (levels.at(-1)?.mark !== mark) levels.push({ tick, mark })
  }
  for (const [index, { first, last, startVelocity, endVelocity }] of stretches.entries()) {
    const [startTicks, endTicks] = [strokes[first]!.tick, strokes[last]!.tick]
    for (let place = first; place <= last; place++) {
      const share = last === first ? 0 : (strokes[place]!.tick - startTicks) / (endTicks - startTicks)
      levelAt.set(strokes[place]!.tick, startVelocity + share * (endVelocity - startVelocity))
    }
    const change = endVelocity - startVelocity
    if (Math.abs(change) < weights.leastHairpin) {
      say(startTicks, markOf((startVelocity + endVelocity) / 2))
      continue
    }
    say(startTicks, markOf(startVelocity))
    const next = stretches[index + 1]
    const untilTicks = next ? strokes[next.first]!.tick : endTicks
    hairpins.push({ startTicks, endTicks: untilTicks, kind: change > 0 ? 'crescendo' : 'diminuendo' })
    // What a hairpin leads to is said, also where the next stretch is near it.
    if (!next) say(endTicks, markOf(endVelocity))
  }
  let count = 0
  for (const { onsetTicks, note } of written)
    if (note.velocity >= levelAt.get(onsetTicks)! + weights.accentAbove) {
      accented.add(note.id)
      count++
    }
  // Where every other note stands out, none does: that is the meter, or another voice.
  return { levels, hairpins, accented: count > weights.mostAccented * written.length ? new Set() : accented }
}

function strokesOf(written: readonly WrittenNote[]): Stroke[] {
  const strokes: { tick: Ticks; velocity: number }[] = []
  for (const { onsetTicks, note } of written) {
    const last = strokes.at(-1)
    if (last?.tick === onsetTicks) last.velocity = Math.max(last.velocity, note.velocity)
    else strokes.push({ tick: onsetTicks, velocity: note.velocity })
  }
  return strokes
}

/** Each stroke as its surroundings are: the median of five, so that one accent is no change of level. */
function withoutAccents(strokes: readonly Stroke[]): Stroke[] {
  const reach = weights.medianReach
  return strokes.map(({ tick }, index) => {
    const from = Math.max(0, index - reach)
    const around = strokes.slice(from, index + reach + 1).map(({ velocity }) => velocity)
    around.sort((a, b) => a - b)
    return { tick, velocity: around[around.length >> 1]! }
  })
}

/** Sums up to each stroke, from which a line through any run of strokes follows at once. */
class LineFitter {
  private readonly x: Float64Array
  private readonly y: Float64Array
  private readonly xx: Float64Array
  private readonly xy: Float64Array
  private readonly yy: Float64Array

  constructor(private readonly strokes: readonly Stroke[]) {
    const sums = () => new Float64Array(strokes.length + 1)
    ;[this.x, this.y, this.xx, this.xy, this.yy] = [sums(), sums(), sums(), sums(), sums()]
    for (const [index, { tick, velocity: y }] of strokes.entries()) {
      const x = tick / TICKS_PER_QUARTER
      this.x[index + 1] = this.x[index]! + x
      this.y[index + 1] = this.y[index]! + y
      this.xx[index + 1] = this.xx[index]! + x * x
      this.xy[index + 1] = this.xy[index]! + x * y
      this.yy[index + 1] = this.yy[index]! + y * y
    }
  }

  /** Rise for each quarter of the best line from one stroke to another. */
  slope(first: number, last: number): number {
    const n = last - first + 1
    const x = (this.x[last + 1]! - this.x[first]!) / n
    const xx = (this.xx[last + 1]! - this.xx[first]!) / n - x * x
    if (xx < 1e-9) return 0
    const y = (this.y[last + 1]! - this.y[first]!) / n
    return ((this.xy[last + 1]! - this.xy[first]!) / n - x * y) / xx
  }

  /** Sum of the squared distances from the best line of that slope. */
  squares(first: number, last: number, slope: number): number {
    const n = last - first + 1
    const [x, y] = [(this.x[last + 1]! - this.x[first]!) / n, (this.y[last + 1]! - this.y[first]!) / n]
    const yy = (this.yy[last + 1]! - this.yy[first]!) / n - y * y
    if (slope === 0) return Math.max(0, n * yy)
    const xx = (this.xx[last + 1]! - this.xx[first]!) / n - x * x
    const xy = (this.xy[last + 1]! - this.xy[first]!) / n - x * y
    return Math.max(0, n * (yy - 2 * slope * xy + slope * slope * xx))
  }

  /** The best line of that slope at one of its strokes. */
  at(place: number, first: number, last: number, slope: number): number {
    const n = last - first + 1
    const x = (this.x[last + 1]! - this.x[first]!) / n
    return (
      (this.y[last + 1]! - this.y[first]!) / n + slope * (this.strokes[place]!.tick / TICKS_PER_QUARTER - x)
    )
  }
}

/** The fewest stretches that explain the force of the strokes. */
function divide(strokes: readonly Stroke[]): Stretch[] {
  const line = new LineFitter(strokes)
  const least = new Float64Array(strokes.length + 1).fill(Number.POSITIVE_INFINITY)
  const from = new Int32Array(strokes.length + 1)
  const slopes = new Float64Array(strokes.length + 1)
  const perSquare = 1 / (2 * weights.spread ** 2)
  least[0] = 0
  for (let last = 0; last < strokes.length; last++)
    for (let first = last; first >= Math.max(0, last - weights.mostStrokesInStretch); first--) {
      const level = least[first]! + line.squares(first, last, 0) * perSquare + weights.newLevel
      if (level < least[last + 1]!) {
        least[last + 1] = level
        from[last + 1] = first
        slopes[last + 1] = 0
      }
      const quarters = (strokes[last]!.tick - strokes[first]!.tick) / TICKS_PER_QUARTER
      if (
        quarters < weights.shortestHairpinQuarters ||
        least[first]! + weights.newHairpin >= least[last + 1]!
      )
        continue
      const slope = line.slope(first, last)
      const ramp = least[first]! + line.squares(first, last, slope) * perSquare + weights.newHairpin
      if (ramp < least[last + 1]!) {
        least[last + 1] = ramp
        from[last + 1] = first
        slopes[last + 1] = slope
      }
    }
  const stretches: Stretch[] = []
  for (let end = strokes.length; end > 0; ) {
    const [first, last, slope] = [from[end]!, end - 1, slopes[end]!]
    stretches.unshift({
      first,
      last,
      startVelocity: line.at(first, first, last, slope),
      endVelocity: line.at(last, first, last, slope),
    })
    end = first
  }
  return stretches
}
