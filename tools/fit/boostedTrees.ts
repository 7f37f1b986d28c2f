import type { DecisionTrees } from '../../src/core/pitch/decisionTrees'

/** What trees are fitted to: rows of numbers, of each of which it is known whether it is one. */
export interface Examples {
  /** How many numbers each row has. */
  readonly width: number
  /** All rows, one after the other. */
  readonly rows: Float32Array
  readonly isOne: Uint8Array
}

export interface FitSettings {
  readonly trees: number
  readonly leavesInTree: number
  /** What part of the way to the best answer a tree goes. */
  readonly learningRate: number
  /** Keeps answers that few rows speak for small. */
  readonly ridge: number
  readonly leastRowsInLeaf: number
}

export const usualFit: FitSettings = {
  trees: 120,
  leavesInTree: 12,
  learningRate: 0.12,
  ridge: 5,
  leastRowsInLeaf: 50,
}

/** Values are told apart by which of so many equally full ranges they lie in. */
const ranges = 128

interface Split {
  readonly gain: number
  readonly column: number
  readonly range: number
}

interface Leaf {
  readonly rows: Uint32Array
  /** Sums of gradient and curvature by column and range. */
  readonly sums: Float64Array
  readonly best: Split | null
  split: { column: number; range: number; yes: Leaf; no: Leaf } | null
}

/**
 * Fits trees by gradient boosting of the logistic loss, each tree grown where it gains most, over histograms of values (J. H. Friedman,
 * "Greedy Function Approximation", 2001; T. Chen and C. Guestrin, "XGBoost: A Scalable Tree Boosting System", 2016, section 2.2). The same
 * examples always give the same trees.
 */
export function fitTrees({ width, rows, isOne }: Examples, settings: FitSettings = usualFit): DecisionTrees {
  const count = isOne.length
  const borders = Array.from({ length: width }, (_, column) => bordersOf(rows, width, column))
  const ranged = borders.map((border, column) =>
    Uint8Array.from({ length: count }, (_, row) => rangeOf(border, rows[row * width + column]!)),
  )
  const ones = isOne.reduce((sum, one) => sum + one, 0)
  if (ones === 0 || ones === count) throw new RangeError('Trees need examples of both kinds.')
  const base = Math.log(ones / (count - ones))
  const scores = new Float64Array(count).fill(base)
  const gradients = new Float64Array(count)
  const curvatures = new Float64Array(count)
  const all = Uint32Array.from({ length: count }, (_, row) => row)
  const trees: number[][] = []

  const sumsOf = (members: Uint32Array): Float64Array => {
    const sums = new Float64Array(width * ranges * 3)
    for (let column = 0; column < width; column++) {
      const own = ranged[column]!
      const start = column * ranges * 3
      for (const row of members) {
        const at = start + own[row]! * 3
        sums[at]! += gradients[row]!
        sums[at + 1]! += curvatures[row]!
        sums[at + 2]! += 1
      }
    }
    return sums
  }
  const leafOf = (members: Uint32Array, sums: Float64Array): Leaf => ({
    rows: members,
    sums,
    best: bestSplit(sums, width, settings),
    split: null,
  })

  for (let index = 0; index < settings.trees; index++) {
    for (let row = 0; row < count; row++) {
      const likely = 1 / (1 + Math.exp(-scores[row]!))
      gradients[row] = likely - isOne[row]!
      curvatures[row] = likely * (1 - likely)
    }
    const root = leafOf(all, sumsOf(all))
    const leaves = [root]
    while (leaves.length < settings.leavesInTree) {
      let most = -1
      for (const [place, { best }] of leaves.entries())
        if (best && best.gain > (leaves[most]?.best?.gain ?? 0)) most = place
      const leaf = leaves[most]
      if (!leaf?.best) break
      const { column, range } = leaf.best
      const own = ranged[column]!
      const yesRows = leaf.rows.filter((row) => own[row]! <= range)
      const noRows = leaf.rows.filter((row) => own[row]! > range)
      const fewer = sumsOf(yesRows.length < noRows.length ? yesRows : noRows)
      const others = leaf.sums.map((sum, place) => sum - fewer[place]!)
      const [yesSums, noSums] = yesRows.length < noRows.length ? [fewer, others] : [others, fewer]
      const yes = leafOf(yesRows, yesSums)
      const no = leafOf(noRows, noSums)
      leaf.split = { column, range, yes, no }
      leaves.splice(most, 1, yes, no)
    }
    for (const leaf of leaves) {
      const answer = answerOf(leaf, settings)
      for (const row of leaf.rows) scores[row]! += answer
    }
    trees.push(written(root, borders, settings))
  }
  return { base: rounded(base), trees }
}

/** Upper borders of ranges, each as full as the others where values allow. */
function bordersOf(rows: Float32Array, width: number, column: number): Float32Array {
  const count = rows.length / width
  const sorted = Float32Array.from({ length: count }, (_, row) => rows[row * width + column]!).sort()
  const borders = new Set<number>()
  for (let range = 1; range < ranges; range++)
    borders.add(rounded(sorted[Math.floor((range * count) / ranges)]!))
  return Float32Array.from([...borders].sort((a, b) => a - b))
}

function rangeOf(borders: Float32Array, value: number): number {
  let low = 0
  let high = borders.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (value <= borders[middle]!) high = middle
    else low = middle + 1
  }
  return low
}

function bestSplit(sums: Float64Array, width: number, { ridge, leastRowsInLeaf }: FitSettings): Split | null {
  let best: Split | null = null
  for (let column = 0; column < width; column++) {
    const start = column * ranges * 3
    const total = [0, 0, 0]
    for (let at = 0; at < ranges * 3; at++) total[at % 3]! += sums[start + at]!
    const [gradient, curvature, rows] = total as [number, number, number]
    const whole = gradient ** 2 / (curvature + ridge)
    let [g, h, n] = [0, 0, 0]
    for (let range = 0; range < ranges - 1; range++) {
      g += sums[start + range * 3]!
      h += sums[start + range * 3 + 1]!
      n += sums[start + range * 3 + 2]!
      if (n < leastRowsInLeaf || rows - n < leastRowsInLeaf) continue
      const gain = g ** 2 / (h + ridge) + (gradient - g) ** 2 / (curvature - h + ridge) - whole
      if (gain > (best?.gain ?? 1e-6)) best = { gain, column, range }
    }
  }
  return best
}

function answerOf({ sums }: Leaf, { ridge, learningRate }: FitSettings): number {
  let gradient = 0
  let curvature = 0
  for (let range = 0; range < ranges; range++) {
    gradient += sums[range * 3]!
    curvature += sums[range * 3 + 1]!
  }
  return rounded((-learningRate * gradient) / (curvature + ridge))
}

/** A tree as `DecisionTrees` has it. */
function written(leaf: Leaf, borders: readonly Float32Array[], settings: FitSettings): number[] {
  const nodes: number[] = []
  const write = (each: Leaf) => {
    if (!each.split) {
      nodes.push(-1, answerOf(each, settings), 0)
      return
    }
    const { column, range, yes, no } = each.split
    const place = nodes.length
    nodes.push(column, rounded(borders[column]![range]!), 0)
    write(yes)
    nodes[place + 2] = nodes.length / 3
    write(no)
  }
  write(leaf)
  return nodes
}

/** Four digits are enough, and keep files small. */
function rounded(value: number): number {
  return Number(value.toPrecision(4))
}
