import type { Ticks } from '../../time/units'
import { LaterNotes, ticksOfMs } from '../later'
import { defineEffect, type RunningEffect } from '../noteEffect'
import { choice, number } from '../settings'
import { advanceGathered, GatheredChord } from '../together'

export const strum = defineEffect({
  title: 'Strum',
  group: 'time',
  says: 'The notes of a chord one after the other, as on strings. It waits about 20 ms for a chord to come together.',
  fields: {
    spacingMs: number('Apart', [1, 200], 25, 'ms'),
    way: choice('Way', ['from below', 'from above', 'in turn'], 'from below'),
    tilt: number('Last one at', [20, 150], 90, '%'),
  },
  presets: { 'Slow harp': { spacingMs: 90 }, 'Quick guitar': { spacingMs: 12, way: 'in turn' } },
  start({ settingsAt, tempoMap }): RunningEffect {
    const later = new LaterNotes()
    const chord = new GatheredChord()
    let count = 0
    const release = (atTicks: Ticks) => {
      const { spacingMs, way, tilt } = settingsAt(atTicks)
      const notes = chord.take(way === 'from above' || (way === 'in turn' && count % 2 === 1))
      count++
      for (const [index, { on, end }] of notes.entries()) {
        const tick = atTicks + ticksOfMs(tempoMap, atTicks, spacingMs * index)
        const share = notes.length > 1 ? index / (notes.length - 1) : 0
        const velocity = Math.max(1, Math.min(127, Math.round(on.velocity * (1 + (tilt / 100 - 1) * share))))
        later.add(on, { ...on, tick, velocity }, tick - on.tick)
        if (end) later.end(on, end.tick, end.velocity)
      }
    }
    return {
      receive(event, emit) {
        if (event.type === 'on') chord.add(event)
        else if (!chord.end(event.of, event.tick, event.velocity))
          later.end(event.of, event.tick, event.velocity)
        later.emitBefore(event.tick + 1, emit)
      },
      advance: (toTicks, emit) => advanceGathered(chord, later, release, toTicks, emit),
    }
  },
})
