import { createDemo } from '@/core/demo/harbourEvening'
import { scoreOf } from '@/core/project/onPage'
import { SpacingGuess } from './spacingGuess'

const score = scoreOf(createDemo('demo', 0, 'computer-keyboard').project)

test('notes of a fuller line stand nearer, those of a wider line further apart, as in the line before', () => {
  const guess = new SpacingGuess()
  const [few, many] = [
    { from: 0, to: 3 },
    { from: 0, to: 6 },
  ]
  expect(guess.of(score, many, 100)!).toBeLessThan(guess.of(score, few, 100)!)
  expect(guess.of(score, few, 120)!).toBeGreaterThan(guess.of(score, few, 100)!)
  guess.wasFound(0.4, score, few, 100)
  expect(guess.of(score, few, 100)).toBeCloseTo(0.4)
  expect(guess.of(score, few, 50)).toBeCloseTo(0.2)
  expect(guess.of(score, few, null)).toBeNull()
})
