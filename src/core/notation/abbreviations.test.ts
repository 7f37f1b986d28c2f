import fc from 'fast-check'
import { abbreviation } from './abbreviations'

test.each([
  ['Flute', 'Flute'],
  ['Clarinet in B♭', 'Cl.'],
  ['Orla’s flute 2', 'O. Fl. 2'],
  ['Violin II', 'Vln. II'],
  ['Bass clarinet', 'B. Cl.'],
  ['Lantern piano', 'L. Pno.'],
  ['Double bass', 'Db.'],
  ['Track 12', 'Track 12'],
  ['Shimmering things', 'Shi.'],
  ['Oboe', 'Oboe'],
])('%s is %s', (name, short) => {
  expect(abbreviation(name)).toBe(short)
})

test('no abbreviation is longer than what it stands for', () => {
  fc.assert(
    fc.property(fc.string(), (name) => {
      expect(abbreviation(name).length).toBeLessThanOrEqual(Math.max(name.trim().length, 14))
    }),
  )
})
