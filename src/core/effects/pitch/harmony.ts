import { defineEffect, instantEffect } from '../noteEffect'
import { choice, KeyScale, number, numbers, onOff, scaleNames, tonics } from '../settings'

const inKey = {
  tonic: choice('Key', tonics, 'C'),
  scale: choice('Scale', scaleNames, 'major'),
} as const

/** Each played note of the scale gets the notes so many scale steps away: 2 and 4 above make a triad. */
export const chordInKey = defineEffect({
  title: 'Chord in key',
  group: 'pitch',
  says: 'Adds notes of the scale, counted in scale steps from the played one: 2 and 4 make a triad, 6 more a seventh chord.',
  fields: {
    ...inKey,
    steps: numbers('Steps', [-21, 21], [2, 4], 8),
    keepsPlayed: onOff('with the played note', true),
    outside: choice(
      'Notes outside the scale',
      ['lead to the note below', 'stay alone', 'are left out'],
      'lead to the note below',
    ),
  },
  presets: {
    Triads: { steps: [2, 4] },
    'Seventh chords': { steps: [2, 4, 6] },
    'Ninth chords': { steps: [2, 4, 6, 8] },
    Sixths: { steps: [5] },
    'Open triads': { steps: [4, 9] },
    'Fourths below': { steps: [-3, -6] },
  },
  start: ({ settingsAt }) =>
    instantEffect((on) => {
      const { tonic, scale, steps, keepsPlayed, outside } = settingsAt(on.tick)
      const keys = new KeyScale(tonic, scale)
      const isInside = keys.has(on.key)
      if (!isInside && outside === 'are left out') return []
      if (!isInside && outside === 'stay alone') return [on]
      const degree = keys.degreeAtOrBelow(on.key)
      const chord = steps.map((step) => ({ ...on, key: keys.keyOf(degree + step) }))
      return keepsPlayed ? [on, ...chord] : chord
    }),
})

export const fixedChord = defineEffect({
  title: 'Fixed chord',
  group: 'pitch',
  says: 'Adds notes at fixed distances in semitones, the same chord on every key.',
  fields: {
    semitones: numbers('Semitones', [-36, 36], [4, 7], 8),
    keepsPlayed: onOff('with the played note', true),
  },
  presets: {
    Major: { semitones: [4, 7] },
    Minor: { semitones: [3, 7] },
    'Dominant seventh': { semitones: [4, 7, 10] },
    'Minor ninth': { semitones: [3, 7, 10, 14] },
    'Stacked fourths': { semitones: [5, 10] },
    'Power chord': { semitones: [7, 12] },
  },
  start: ({ settingsAt }) =>
    instantEffect((on) => {
      const { semitones, keepsPlayed } = settingsAt(on.tick)
      const chord = semitones.map((distance) => ({ ...on, key: on.key + distance }))
      return keepsPlayed ? [on, ...chord] : chord
    }),
})

export const parallel = defineEffect({
  title: 'Parallel voice',
  group: 'pitch',
  says: 'A second voice moves along at a fixed distance, in the key or in semitones.',
  fields: {
    measure: choice('Counted in', ['scale steps', 'semitones'], 'scale steps'),
    distance: number('Distance', [-24, 24], -2),
    ...inKey,
    force: number('Its force', [10, 150], 90, '%'),
  },
  presets: {
    'A third above': { measure: 'scale steps', distance: 2 },
    'A sixth below': { measure: 'scale steps', distance: -5 },
    'A fifth above': { measure: 'semitones', distance: 7 },
  },
  start: ({ settingsAt }) =>
    instantEffect((on) => {
      const { measure, distance, tonic, scale, force } = settingsAt(on.tick)
      const keys = new KeyScale(tonic, scale)
      const by = Math.round(distance)
      const key = measure === 'semitones' ? on.key + by : keys.keyOf(keys.degreeAtOrBelow(on.key) + by)
      const velocity = Math.max(1, Math.min(127, Math.round((on.velocity * force) / 100)))
      return [on, { ...on, key, velocity }]
    }),
})
