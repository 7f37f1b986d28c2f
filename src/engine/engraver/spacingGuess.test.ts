import { createDemo } from '@/core/demo/harbourEvening'
import { scoreOf } from '@/core/project/onPage'
import { usualSpacing } from './fillLine'
import { SpacingGuess } from './spacingGuess'

const score = scoreOf(createDemo('demo', 0, 'computer-keyboard').project)
const few = { from: 0, to: 3 }
const many = { from: 0, to: 6 }
const filled = (spacing: number) => ({ spacing, filling: 'spread' as const })

test('notes of a fuller line stand nearer, those of a wider line further apart, as in the line before', () => {
  const guess = new SpacingGuess()
  const spacing = (system: typeof few, lineSpaces: number | null) =>
    guess.expected(score, system, lineSpaces).spacing
  expect(spacing(many, 100)).toBeLessThan(spacing(few, 100))
  expect(spacing(few, 120)).toBeGreaterThan(spacing(few, 100))
  guess.wasFound(filled(0.4), score, few, 100)
  expect(spacing(few, 100)).toBeCloseTo(0.4)
  expect(spacing(few, 50)).toBeCloseTo(0.2)
  expect(spacing(few, null)).toBe(usualSpacing)
})

test('a line that was drawn is known, as long as it is as wide and its music wants about as much room', () => {
  const guess = new SpacingGuess()
  guess.wasFound({ spacing: 0.4, filling: 'ragged' }, score, few, 100)
  expect(guess.expected(score, few, 100)).toMatchObject({ spacing: 0.4, filling: 'ragged', isFound: true })
  expect(guess.expected(score, few, 90).isFound).toBe(false)
  expect(guess.expected(score, many, 100).isFound).toBe(false)
})

test('the notes of the last line stand no further apart than those of the line before', () => {
  const guess = new SpacingGuess()
  guess.wasFound(filled(0.25), score, many, 100)
  const bars = score.measures.length
  expect(guess.expected(score, { from: bars - 2, to: bars }, 100)).toMatchObject({
    spacing: 0.25,
    isLast: true,
  })
  expect(guess.expected(score, { from: bars - 3, to: bars - 1 }, 100).spacing).toBeGreaterThan(0.25)
})
