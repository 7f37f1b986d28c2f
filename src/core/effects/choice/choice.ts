import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import { chance } from '../chance'
import { LaterNotes, ticksOfMs } from '../later'
import { defineEffect, type EffectNoteOn, instantEffect, type RunningEffect } from '../noteEffect'
import { choice, key, number, onOff } from '../settings'

export const probability = defineEffect({
  title: 'Chance',
  group: 'choice',
  says: 'Lets notes through by chance: each for itself or a whole beat together, with a memory that makes streaks.',
  usesChance: () => true,
  fields: {
    share: number('Lets through', [0, 100], 60, '%'),
    per: choice('Decided', ['for each note', 'for each beat'], 'for each note'),
    memory: number('Memory', [0, 95], 0, '%'),
  },
  presets: {
    'Half of them': { share: 50 },
    Streaks: { share: 50, memory: 80 },
    'Some beats': { per: 'for each beat', share: 70 },
  },
  start({ settingsAt, seed }) {
    let last: boolean | null = null
    let lastBeat: number | null = null
    return instantEffect((on) => {
      const { share, per, memory } = settingsAt(on.tick)
      const beat = Math.floor(on.tick / TICKS_PER_QUARTER)
      const isByBeat = per === 'for each beat'
      if (!isByBeat || beat !== lastBeat) {
        const counters = isByBeat ? [beat] : [on.tick, on.key, on.channel]
        const remembers = last !== null && chance(seed, 2, ...counters) * 100 < memory
        if (!remembers) last = chance(seed, 1, ...counters) * 100 < share
        lastBeat = beat
      }
      return last ? [on] : []
    })
  },
})

export const everyNth = defineEffect({
  title: 'Every n-th',
  group: 'choice',
  says: 'Counts the notes and lets every n-th one through, or all but that one.',
  fields: {
    n: number('n', [1, 32], 2),
    first: number('Beginning with', [1, 32], 1),
    isLeftOut: onOff('leave that one out instead', false),
  },
  start({ settingsAt }) {
    let count = 0
    return instantEffect((on) => {
      const { n, first, isLeftOut } = settingsAt(on.tick)
      const every = Math.max(1, Math.round(n))
      const isNth = (count++ - (Math.round(first) - 1)) % every === 0
      return isNth === isLeftOut ? [] : [on]
    })
  },
})

export const filter = defineEffect({
  title: 'Filter',
  group: 'choice',
  says: 'Lets through what is within the range of keys, force and channel. A least length makes each note wait until it was held that long.',
  fields: {
    lowest: key('From', 0),
    highest: key('To', 127),
    softest: number('Force from', [1, 127], 1),
    loudest: number('Force to', [1, 127], 127),
    channel: number('Channel (0: any)', [0, 16], 0),
    leastMs: number('Held at least', [0, 2000], 0, 'ms'),
    isInverted: onOff('the others instead', false),
  },
  start({ settingsAt, tempoMap }): RunningEffect {
    const passing = new LaterNotes()
    const waiting = new Map<EffectNoteOn, Ticks>()
    return {
      receive(event, emit) {
        if (event.type === 'on') {
          const { lowest, highest, softest, loudest, channel, leastMs, isInverted } = settingsAt(event.tick)
          const isWithin =
            event.key >= lowest &&
            event.key <= highest &&
            event.velocity >= softest &&
            event.velocity <= loudest &&
            (channel === 0 || event.channel === Math.round(channel))
          if (isWithin === isInverted) return
          const waitTicks = ticksOfMs(tempoMap, event.tick, leastMs)
          if (waitTicks > 0) waiting.set(event, waitTicks)
          else passing.add(event, { ...event }, 0)
        } else if (waiting.has(event.of)) waiting.delete(event.of)
        else passing.end(event.of, event.tick, event.velocity)
        passing.emitBefore(event.tick + 1, emit)
      },
      advance(toTicks, emit) {
        for (const [on, waitTicks] of waiting) {
          if (on.tick + waitTicks >= toTicks) continue
          waiting.delete(on)
          passing.add(on, { ...on, tick: on.tick + waitTicks }, waitTicks)
        }
        passing.emitBefore(toTicks, emit)
      },
    }
  },
})
