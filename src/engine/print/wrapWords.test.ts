import fc from 'fast-check'
import { lettersWithin, wrapWords } from './wrapWords'

test('words are broken into lines, and what is longer than a line within', () => {
  expect(wrapWords('Lamps on the Ebb', 10, 60)).toEqual(['Lamps on', 'the Ebb'])
  expect(wrapWords('Lamps', 10, 18)).toEqual(['Lam', 'ps'])
  expect(wrapWords('', 10, 60)).toEqual([])
})

test('no line is longer than it may be, and no letter is lost', () => {
  fc.assert(
    fc.property(
      fc.string({ unit: 'grapheme', maxLength: 200 }),
      fc.integer({ min: 5, max: 600 }),
      (text, width) => {
        const lines = wrapWords(text, 10, width)
        for (const line of lines) expect([...line].length).toBeLessThanOrEqual(lettersWithin(width, 10))
        expect(lines.join('').replace(/\s/g, '')).toBe(text.replace(/\s/g, ''))
      },
    ),
  )
})
