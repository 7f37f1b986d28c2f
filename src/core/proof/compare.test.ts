import fc from 'fast-check'
import { isBalanced, sumLedgers } from '../ledger/ledger'
import { compareNotes } from './compare'

const note = fc.record({
  onsetTicks: fc.nat(100_000),
  durationTicks: fc.integer({ min: 840, max: 40_000 }),
  key: fc.nat(127),
})
const notes = fc.array(note, { minLength: 1, maxLength: 40 })

describe('comparing what was read with what was written', () => {
  test('the same notes are proved, in any order and within the reader’s rounding', () => {
    fc.assert(
      fc.property(notes, fc.integer({ min: -80, max: 80 }), (expected, slip) => {
        const found = [...expected].reverse().map((each) => ({ ...each, onsetTicks: each.onsetTicks + slip }))
        expect(compareNotes([{ name: 'P', expected, found }], 84)).toMatchObject({
          isProved: true,
          differences: [],
        })
      }),
    )
  })

  test('one note missing, added, moved, changed in pitch or in length is seen', () => {
    fc.assert(
      fc.property(notes, fc.nat(1000), (expected, pick) => {
        const index = pick % expected.length
        const changed = (fields: object) =>
          expected.map((each, place) => (place === index ? { ...each, ...fields } : each))
        const one = expected[index]!
        for (const found of [
          expected.filter((_, place) => place !== index),
          [...expected, one],
          changed({ onsetTicks: one.onsetTicks + 150_000 }),
          changed({ key: one.key === 127 ? 0 : one.key + 1 }),
          changed({ durationTicks: one.durationTicks + 50_000 }),
        ]) {
          const proof = compareNotes([{ name: 'P', expected, found }], 84)
          expect(proof.isProved).toBe(false)
          expect(proof.differences[0]).toMatch(/^P: /)
        }
      }),
    )
  })

  test('a note in the wrong part is seen, though the sum is right', () => {
    const one = { onsetTicks: 0, durationTicks: 10_080, key: 60 }
    const parts = [
      { name: 'Upper', expected: [one], found: [] },
      { name: 'Lower', expected: [], found: [one] },
    ]
    expect(compareNotes(parts, 84)).toMatchObject({ isProved: false, expectedNotes: 1, foundNotes: 1 })
  })
})

describe('ledgers', () => {
  const ledger = fc
    .record({ written: fc.nat(50), merged: fc.nat(50), quiet: fc.nat(50), short: fc.nat(50) })
    .map(({ written, merged, quiet, short }) => ({
      captured: written + merged + quiet + short,
      written,
      merged,
      coincident: 0,
      filtered: [
        { reason: 'too quiet' as const, count: quiet },
        { reason: 'too short' as const, count: short },
      ],
    }))

  test('the sum of balanced ledgers is balanced', () => {
    fc.assert(fc.property(fc.array(ledger), (ledgers) => expect(isBalanced(sumLedgers(ledgers))).toBe(true)))
  })

  test('a lost note unbalances', () => {
    expect(isBalanced({ captured: 2, written: 1, merged: 0, coincident: 0, filtered: [] })).toBe(false)
  })
})
