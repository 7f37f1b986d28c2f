import { chanceBetween } from '../chance'
import { defineEffect, instantEffect } from '../noteEffect'
import { number } from '../settings'

const within = (velocity: number) => Math.max(1, Math.min(127, Math.round(velocity)))

export const touch = defineEffect({
  title: 'Touch curve',
  group: 'force',
  says: 'Bends the force: above zero soft notes come out louder, below zero softer.',
  fields: { bend: number('Bend', [-100, 100], 30) },
  start: ({ settingsAt }) =>
    instantEffect((on) => {
      const exponent = 2 ** (-settingsAt(on.tick).bend / 50)
      return [{ ...on, velocity: within(127 * (on.velocity / 127) ** exponent) }]
    }),
})

export const fixedForce = defineEffect({
  title: 'Fixed force',
  group: 'force',
  says: 'Every note equally loud.',
  fields: { velocity: number('Force', [1, 127], 90) },
  start: ({ settingsAt }) =>
    instantEffect((on) => [{ ...on, velocity: within(settingsAt(on.tick).velocity) }]),
})

export const evenForce = defineEffect({
  title: 'Even out the force',
  group: 'force',
  says: 'Draws loud and soft towards a middle.',
  fields: { middle: number('Middle', [1, 127], 80), amount: number('By', [0, 100], 50, '%') },
  start: ({ settingsAt }) =>
    instantEffect((on) => {
      const { middle, amount } = settingsAt(on.tick)
      return [{ ...on, velocity: within(on.velocity + ((middle - on.velocity) * amount) / 100) }]
    }),
})

export const chanceForce = defineEffect({
  title: 'Chance force',
  group: 'force',
  says: 'Each note somewhere between two forces, by chance.',
  usesChance: () => true,
  fields: { softest: number('From', [1, 127], 50), loudest: number('To', [1, 127], 110) },
  start: ({ settingsAt, seed }) =>
    instantEffect((on) => {
      const { softest, loudest } = settingsAt(on.tick)
      const [low, high] = [Math.round(Math.min(softest, loudest)), Math.round(Math.max(softest, loudest))]
      return [{ ...on, velocity: within(chanceBetween(low, high, seed, on.tick, on.key, on.channel)) }]
    }),
})
