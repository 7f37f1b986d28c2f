import type { Ticks } from '../../time/units'
import { chance } from '../chance'
import { LaterNotes, ticksOfMs } from '../later'
import { defineEffect, type EffectNoteOn, type RunningEffect } from '../noteEffect'
import { choice, noteValueNames, noteValues, number } from '../settings'

/** Every note later by its own distance, as long as it was. */
function later(
  distanceOf: (on: EffectNoteOn) => { readonly byTicks: Ticks; readonly velocity?: number },
): RunningEffect {
  const notes = new LaterNotes()
  return {
    receive(event, emit) {
      if (event.type === 'on') {
        const { byTicks, velocity = event.velocity } = distanceOf(event)
        const { key, channel, sourceId } = event
        const tick = event.tick + byTicks
        notes.add(event, { type: 'on', tick, key, velocity, channel, sourceId }, byTicks)
      } else notes.end(event.of, event.tick, event.velocity)
      notes.emitBefore(event.tick + 1, emit)
    },
    advance: (toTicks, emit) => notes.emitBefore(toTicks, emit),
  }
}

const modulo = (value: number, by: number) => value - Math.floor(value / by) * by

export const swing = defineEffect({
  title: 'Swing',
  group: 'time',
  says: 'Every second line of the grid comes later: 50 % is even, 67 % triplets.',
  fields: {
    grid: choice('Grid', ['1/8', '1/16'], '1/8'),
    amount: number('Second one at', [50, 75], 62, '%'),
  },
  presets: { Triplets: { amount: 67 }, 'A little': { amount: 55 } },
  start: ({ settingsAt }) =>
    later((on) => {
      const { grid, amount } = settingsAt(on.tick)
      const pairTicks = 2 * noteValues[grid]
      const share = modulo(on.tick, pairTicks) / pairTicks
      const second = amount / 100
      const moved = share < 0.5 ? share * 2 * second : second + (share - 0.5) * 2 * (1 - second)
      return { byTicks: Math.round((moved - share) * pairTicks) }
    }),
})

export const toGrid = defineEffect({
  title: 'Wait for the grid',
  group: 'time',
  says: 'An early note waits for its line of the grid. One up to half a step late sounds at once, since time does not run backwards; to move those too, quantise in Tracks.',
  fields: {
    grid: choice('Grid', noteValueNames, '1/16'),
    late: choice('Late notes', ['sound at once', 'wait for the next line'], 'sound at once'),
  },
  start: ({ settingsAt }) =>
    later((on) => {
      const { grid, late } = settingsAt(on.tick)
      const stepTicks = noteValues[grid]
      const past = modulo(on.tick, stepTicks)
      const isLate = past * 2 < stepTicks
      return { byTicks: past === 0 || (isLate && late === 'sound at once') ? 0 : stepTicks - past }
    }),
})

export const delay = defineEffect({
  title: 'Delay',
  group: 'time',
  says: 'Everything later by so many milliseconds.',
  fields: { byMs: number('By', [0, 2000], 20, 'ms') },
  start: ({ settingsAt, tempoMap }) =>
    later((on) => ({ byTicks: ticksOfMs(tempoMap, on.tick, settingsAt(on.tick).byMs) })),
})

export const humanise = defineEffect({
  title: 'Humanise',
  group: 'time',
  says: 'Small slips of time and force, by chance. Notes come up to so much late, never early.',
  usesChance: () => true,
  fields: { timeMs: number('Late up to', [0, 120], 18, 'ms'), force: number('Force', [0, 40], 8, '±') },
  start: ({ settingsAt, tempoMap, seed }) =>
    later((on) => {
      const { timeMs, force } = settingsAt(on.tick)
      const slip = (chance(seed, 2, on.tick, on.key, on.channel) * 2 - 1) * force
      return {
        byTicks: ticksOfMs(tempoMap, on.tick, timeMs * chance(seed, 1, on.tick, on.key, on.channel)),
        velocity: Math.max(1, Math.min(127, Math.round(on.velocity + slip))),
      }
    }),
})
