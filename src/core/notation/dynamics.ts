import type { NoteId } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { dynamicWeights as weights } from './dynamicWeights'
import type { WrittenNote } from './rhythm/rhythm'

/** A level as it is printed, from the softest up. */
export const dynamicMarks = ['pp', 'p', 'mp', 'mf', 'f', 'ff'] as const
export type DynamicMark = (typeof dynamicMarks)[number]

/** A level from a place on. */
export interface Dynamic {
  readonly tick: Ticks
  readonly mark: DynamicMark
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

/** The level a force is printed as. */
export function markOf(velocity: number): DynamicMark {
  return dynamicMarks[weights.levelFrom.findLastIndex((from) => velocity >= from)]!
}

/**
 * Finds the dynamics of a part from the force of its notes: the piece is divided into stretches in which the force stays or changes
 * evenly, as few as explain what was played. A level is printed where it becomes another, a hairpin where it changes enough.
 *
 * The best division is found by dynamic programming over all of them (R. Bellman, On the approximation of curves by line segments,
 * 1961).
 *
 * @param written in order of onset
 */
export function findDynamics(written: readonly WrittenNote[]): Dynamics {
  const strokes = strokesOf(written)
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
function lineFitter(strokes: readonly Stroke[]) {
  const columns = ['n', 'x', 'y', 'xx', 'xy', 'yy'] as const
  const sums = Object.fromEntries(
    columns.map((column) => [column, new Float64Array(strokes.length + 1)]),
  ) as Record<(typeof columns)[number], Float64Array>
  for (const [index, { tick, velocity }] of strokes.entries()) {
    const x = tick / TICKS_PER_QUARTER
    const of = { n: 1, x, y: velocity, xx: x * x, xy: x * velocity, yy: velocity * velocity }
    for (const column of columns) sums[column][index + 1] = sums[column][index]! + of[column]
  }
  const between = (column: (typeof columns)[number], first: number, last: number) =>
    sums[column][last + 1]! - sums[column][first]!
  return (first: number, last: number, isLevel: boolean) => {
    const n = last - first + 1
    const [x, y] = [between('x', first, last) / n, between('y', first, last) / n]
    const xx = between('xx', first, last) / n - x * x
    const xy = between('xy', first, last) / n - x * y
    const yy = between('yy', first, last) / n - y * y
    const slope = isLevel || xx < 1e-9 ? 0 : xy / xx
    const at = (place: number) => y + slope * (strokes[place]!.tick / TICKS_PER_QUARTER - x)
    return {
      squares: Math.max(0, n * (yy - 2 * slope * xy + slope * slope * xx)),
      start: at(first),
      end: at(last),
    }
  }
}

/** The fewest stretches that explain the force of the strokes. */
function divide(strokes: readonly Stroke[]): Stretch[] {
  const lineThrough = lineFitter(strokes)
  const least = new Float64Array(strokes.length + 1).fill(Number.POSITIVE_INFINITY)
  const back: { first: number; isLevel: boolean }[] = []
  least[0] = 0
  for (let last = 0; last < strokes.length; last++)
    for (let first = last; first >= Math.max(0, last - weights.mostStrokesInStretch); first--) {
      for (const isLevel of [true, false]) {
        const quarters = (strokes[last]!.tick - strokes[first]!.tick) / TICKS_PER_QUARTER
        if (!isLevel && quarters < weights.shortestHairpinQuarters) continue
        const cost =
          least[first]! +
          lineThrough(first, last, isLevel).squares / (2 * weights.spread ** 2) +
          (isLevel ? weights.newLevel : weights.newHairpin)
        if (cost < least[last + 1]!) {
          least[last + 1] = cost
          back[last + 1] = { first, isLevel }
        }
      }
    }
  const stretches: Stretch[] = []
  for (let end = strokes.length; end > 0; ) {
    const { first, isLevel } = back[end]!
    const { start, end: endVelocity } = lineThrough(first, end - 1, isLevel)
    stretches.unshift({ first, last: end - 1, startVelocity: start, endVelocity })
    end = first
  }
  return stretches
}
