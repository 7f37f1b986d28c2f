import type { VoiceInMeasure } from './score'
import { stemDirections } from './stems'

const voice = (number: number, staff: number, keys: readonly number[]): VoiceInMeasure => ({
  voice: number,
  staff,
  elements: keys.map((key, index) => ({
    kind: 'chord',
    startTicks: index * 10_080,
    durationTicks: 10_080,
    value: { type: 'quarter', dots: 0 },
    tuplet: null,
    beams: [],
    articulations: [],
    graces: [],
    crossesTo: null,
    lyric: null,
    notes: [
      {
        velocity: 80,
        noteIds: [key],
        key,
        pitch: { step: 'C', alter: 0, octave: 4 },
        tiesFromPrevious: false,
        tiesToNext: false,
        fingering: null,
        accidental: null,
      },
    ],
  })),
})

test('the higher of two voices has its stems up, whichever is written first; the other down', () => {
  for (const voices of [
    [voice(1, 1, [72, 74]), voice(2, 1, [60])],
    [voice(2, 1, [60]), voice(1, 1, [72, 74])],
  ])
    expect(Object.fromEntries(stemDirections(voices))).toEqual({ 1: 'up', 2: 'down' })
})

test('a voice alone on its staff has stems both ways; so has one beside a voice that rests', () => {
  expect(stemDirections([voice(1, 1, [72]), voice(2, 2, [48])]).size).toBe(0)
  expect(stemDirections([voice(1, 1, [72]), voice(2, 1, [])]).size).toBe(0)
})
