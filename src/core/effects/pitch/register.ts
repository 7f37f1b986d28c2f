import { chance, chanceBetween } from '../chance'
import { defineEffect, instantEffect } from '../noteEffect'
import { choice, KeyScale, key, number, scaleNames, tonics } from '../settings'

export const intoTheScale = defineEffect({
  title: 'Into the scale',
  group: 'pitch',
  says: 'Notes outside the scale go to the nearest one in it, or are left out.',
  fields: {
    tonic: choice('Key', tonics, 'C'),
    scale: choice('Scale', scaleNames, 'major'),
    way: choice(
      'Notes outside',
      ['go to the nearest', 'go up', 'go down', 'are left out'],
      'go to the nearest',
    ),
  },
  start: ({ settingsAt }) =>
    instantEffect((on) => {
      const { tonic, scale, way } = settingsAt(on.tick)
      const keys = new KeyScale(tonic, scale)
      if (keys.has(on.key)) return [on]
      if (way === 'are left out') return []
      const degree = keys.degreeAtOrBelow(on.key)
      const [below, above] = [keys.keyOf(degree), keys.keyOf(degree + 1)]
      const goesUp = way === 'go up' || (way === 'go to the nearest' && above - on.key < on.key - below)
      return [{ ...on, key: goesUp ? above : below }]
    }),
})

export const transpose = defineEffect({
  title: 'Transpose',
  group: 'pitch',
  says: 'Every note so many semitones and octaves up or down.',
  fields: { semitones: number('Semitones', [-24, 24], 0), octaves: number('Octaves', [-4, 4], 0) },
  presets: { 'An octave down': { octaves: -1 }, 'A fifth up': { semitones: 7 } },
  start: ({ settingsAt }) =>
    instantEffect((on) => {
      const { semitones, octaves } = settingsAt(on.tick)
      return [{ ...on, key: on.key + Math.round(semitones) + 12 * Math.round(octaves) }]
    }),
})

export const octaves = defineEffect({
  title: 'Octave spread',
  group: 'pitch',
  says: 'Each note is doubled in octaves above and below, each octave a little softer.',
  fields: {
    above: number('Above', [0, 4], 1),
    below: number('Below', [0, 4], 0),
    fade: number('Each one at', [10, 100], 80, '%'),
  },
  start: ({ settingsAt }) =>
    instantEffect((on) => {
      const { above, below, fade } = settingsAt(on.tick)
      const doubled = (octave: number) => ({
        ...on,
        key: on.key + 12 * octave,
        velocity: Math.max(1, Math.round(on.velocity * (fade / 100) ** Math.abs(octave))),
      })
      const up = Array.from({ length: Math.round(above) }, (_, index) => doubled(index + 1))
      const down = Array.from({ length: Math.round(below) }, (_, index) => doubled(-index - 1))
      return [on, ...up, ...down]
    }),
})

export const fold = defineEffect({
  title: 'Fold into a range',
  group: 'pitch',
  says: 'Notes outside the range come back in by octaves.',
  fields: { lowest: key('Lowest', 48), highest: key('Highest', 72) },
  start: ({ settingsAt }) =>
    instantEffect((on) => {
      const settings = settingsAt(on.tick)
      const lowest = Math.min(settings.lowest, settings.highest)
      // A range narrower than an octave cannot hold every note: it is opened upwards.
      const highest = Math.max(settings.highest, settings.lowest, lowest + 11)
      const above = Math.max(0, Math.ceil((on.key - highest) / 12))
      const below = Math.max(0, Math.ceil((lowest - on.key) / 12))
      return above === 0 && below === 0 ? [on] : [{ ...on, key: on.key - 12 * above + 12 * below }]
    }),
})

export const chancePitch = defineEffect({
  title: 'Chance pitch',
  group: 'pitch',
  says: 'Now and then a note goes somewhere else nearby, by chance.',
  usesChance: () => true,
  fields: {
    share: number('How often', [0, 100], 40, '%'),
    down: number('Down to', [0, 14], 2),
    up: number('Up to', [0, 14], 2),
    measure: choice('Counted in', ['scale steps', 'semitones'], 'scale steps'),
    tonic: choice('Key', tonics, 'C'),
    scale: choice('Scale', scaleNames, 'major'),
  },
  start: ({ settingsAt, seed }) =>
    instantEffect((on) => {
      const { share, down, up, measure, tonic, scale } = settingsAt(on.tick)
      if (chance(seed, 1, on.tick, on.key, on.channel) * 100 >= share) return [on]
      const by = chanceBetween(-Math.round(down), Math.round(up), seed, 2, on.tick, on.key, on.channel)
      if (measure === 'semitones') return [{ ...on, key: on.key + by }]
      const keys = new KeyScale(tonic, scale)
      return [{ ...on, key: by === 0 ? on.key : keys.keyOf(keys.degreeAtOrBelow(on.key) + by) }]
    }),
})
