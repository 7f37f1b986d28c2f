import { labelled, pageLabel } from './pageLabel'

test('a short name is as it is, a long one in lines, one that is longer still is cut', () => {
  expect(pageLabel('Benno’s piano')).toBe('Benno’s piano')
  expect(pageLabel('First flute of the harbour society, second desk')).toBe(
    'First flute of the\nharbour society,\nsecond desk',
  )
  const endless = pageLabel('word '.repeat(40).trim())
  expect(endless.split('\n')).toHaveLength(3)
  expect(endless.endsWith('…')).toBe(true)
  expect(pageLabel('x'.repeat(50)).length).toBeLessThan(24)
})

test('a part is called by its whole name beside the first line, and by its short one beside the others', () => {
  const part = {
    name: 'Flute of the lighthouse',
    shortName: 'Fl.',
    instrument: { kind: 'drums' },
    bracket: 'usual',
    keyNames: [],
    channel: 1,
    volume: 1,
    pan: 0,
  } as const
  expect(labelled(part, true).name).toBe('Flute of the\nlighthouse')
  expect(labelled(part, false)).toMatchObject({ name: 'Fl.', shortName: '' })
})
