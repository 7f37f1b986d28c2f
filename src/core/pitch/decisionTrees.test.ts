import { likelihoodBy } from './decisionTrees'
import { knownAround } from './strikes'
import strikeTrees from './strikeTrees.json'

describe('decision trees', () => {
  // Is the first number at most 2? Then: is the second at most 0?
  const tree = [0, 2, 4, 1, 0, 3, -1, 3, 0, -1, -3, 0, -1, 0.5, 0]

  test('the answers of all trees are added to the score', () => {
    const likely = (score: number) => 1 / (1 + Math.exp(-score))
    expect(likelihoodBy({ base: 1, trees: [] }, [])).toBeCloseTo(likely(1))
    const known: [number[], number][] = [
      [[2, 0], 3],
      [[2, 0.1], -3],
      [[2.1, 0], 0.5],
    ]
    for (const [about, answer] of known)
      expect(likelihoodBy({ base: 0.25, trees: [tree, tree] }, about)).toBeCloseTo(likely(0.25 + 2 * answer))
  })

  test('a number that is none is never more than asked for, and still is answered', () => {
    expect(likelihoodBy({ base: 0, trees: [tree] }, [Number.NaN, 0])).toBeCloseTo(1 / (1 + Math.exp(-0.5)))
  })

  test('the trees of strikes are whole: every question leads on to a node of its own, all of them reached', () => {
    expect(strikeTrees.trees.length).toBeGreaterThan(50)
    for (const nodes of strikeTrees.trees) {
      const reached = new Set<number>()
      const visit = (node: number) => {
        expect(reached.has(node)).toBe(false)
        reached.add(node)
        const [about, value, otherwise] = nodes.slice(node * 3, node * 3 + 3)
        expect(Number.isFinite(value)).toBe(true)
        if (about === -1) return
        expect(about).toBeLessThan(knownAround)
        visit(node + 1)
        visit(otherwise!)
      }
      visit(0)
      expect(reached.size).toBe(nodes.length / 3)
    }
  })
})
