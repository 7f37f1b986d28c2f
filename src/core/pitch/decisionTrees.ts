/**
 * Trees of yes-or-no questions about numbers, each of which adds to a score (J. H. Friedman, "Greedy Function Approximation: A Gradient
 * Boosting Machine", Annals of Statistics 29, 2001). A tree is a list of nodes of three numbers, the first asked first: which number is
 * asked about, the value it must not exceed for the answer to be the next node, and the place of the node otherwise. A node that asks
 * about −1 is an answer, its second number what it adds.
 */
export interface DecisionTrees {
  /** The score before anything is asked. */
  readonly base: number
  readonly trees: readonly (readonly number[])[]
}

/** How likely, from 0 to 1. @param about the numbers that are asked about */
export function likelihoodBy({ base, trees }: DecisionTrees, about: ArrayLike<number>): number {
  let score = base
  for (const tree of trees) score += answerOf(tree, about)
  return 1 / (1 + Math.exp(-score))
}

function answerOf(tree: readonly number[], about: ArrayLike<number>): number {
  let node = 0
  while (tree[node]! >= 0) node = about[tree[node]!]! <= tree[node + 1]! ? node + 3 : tree[node + 2]! * 3
  return tree[node + 1]!
}
