import fc from 'fast-check'
import { likelihoodBy } from '../../src/core/pitch/decisionTrees'
import { chanceFrom } from '../../src/core/pitch/playedLines.testing'
import { type Examples, fitTrees, usualFit } from './boostedTrees'

const few = { ...usualFit, trees: 40, leavesInTree: 6, leastRowsInLeaf: 5 }

function examples(count: number, seed: number, isOne: (row: readonly number[]) => boolean): Examples {
  const chance = chanceFrom(seed)
  const rows = Array.from({ length: count }, () => [chance(), chance() * 100 - 50, chance()])
  return { width: 3, rows: Float32Array.from(rows.flat()), isOne: Uint8Array.from(rows.map(isOne), Number) }
}

describe('boosted trees', () => {
  test('learn what no single question tells: whether exactly one of two numbers is large', () => {
    const either = ([first, second]: readonly number[]) => first! > 0.5 !== second! > 0
    const fitted = fitTrees(examples(2000, 1, either), few)
    const fresh = examples(500, 2, either)
    let right = 0
    for (const [index, one] of fresh.isOne.entries()) {
      const likely = likelihoodBy(fitted, fresh.rows.subarray(index * 3, index * 3 + 3))
      if (likely > 0.5 === (one === 1)) right++
    }
    expect(right / 500).toBeGreaterThan(0.96)
  })

  test('of what has no rule they say how often it is so', () => {
    const chance = chanceFrom(5)
    const fitted = fitTrees(
      examples(4000, 3, () => chance() < 0.2),
      { ...few, leastRowsInLeaf: 400 },
    )
    const said = [0.1, 0.4, 0.8].map((value) => likelihoodBy(fitted, [value, 0, value]))
    for (const likely of said) expect(Math.abs(likely - 0.2)).toBeLessThan(0.12)
  })

  test('the same examples give the same trees, and no tree has more answers than it may', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 2, max: 9 }), (seed, leavesInTree) => {
        const given = examples(300, seed, ([first, , third]) => first! * third! > 0.2)
        const settings = { ...few, trees: 5, leavesInTree }
        const fitted = fitTrees(given, settings)
        expect(fitTrees(given, settings)).toEqual(fitted)
        for (const tree of fitted.trees) {
          const answers = tree.filter((value, place) => place % 3 === 0 && value === -1).length
          expect(answers).toBeLessThanOrEqual(leavesInTree)
          expect(tree.length / 3).toBe(2 * answers - 1)
        }
      }),
      { numRuns: 20 },
    )
  })

  test('examples of one kind only are refused', () => {
    expect(() =>
      fitTrees(
        examples(100, 1, () => true),
        few,
      ),
    ).toThrow('both kinds')
  })
})
