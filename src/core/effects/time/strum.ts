import type { Ticks } from '../../time/units'
import { LaterNotes, ticksOfMs } from '../later'
import { defineEffect, type EffectNoteOn, type Emit, type RunningEffect } from '../noteEffect'
import { choice, number } from '../settings'

/** Strokes of one chord belong together: about 20 ms at 120 bpm. */
const gatherTicks: Ticks = 420

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
    let chord: { readonly on: EffectNoteOn; end: { tick: Ticks; velocity: number } | null }[] = []
    let count = 0
    const release = (atTicks: Ticks) => {
      const { spacingMs, way, tilt } = settingsAt(atTicks)
      const isFromAbove = way === 'from above' || (way === 'in turn' && count % 2 === 1)
      count++
      const sorted = [...chord].sort((a, b) => (isFromAbove ? b.on.key - a.on.key : a.on.key - b.on.key))
      chord = []
      for (const [index, { on, end }] of sorted.entries()) {
        const tick = atTicks + ticksOfMs(tempoMap, atTicks, spacingMs * index)
        const share = sorted.length > 1 ? index / (sorted.length - 1) : 0
        const velocity = Math.max(1, Math.min(127, Math.round(on.velocity * (1 + (tilt / 100 - 1) * share))))
        later.add(on, { ...on, tick, velocity }, tick - on.tick)
        if (end) later.end(on, end.tick, end.velocity)
      }
    }
    const advance = (toTicks: Ticks, emit: Emit) => {
      const first = chord[0]
      if (first && first.on.tick + gatherTicks < toTicks) {
        later.emitBefore(first.on.tick + gatherTicks, emit)
        release(first.on.tick + gatherTicks)
      }
      later.emitBefore(toTicks, emit)
    }
    return {
      receive(event, emit) {
        if (event.type === 'on') chord.push({ on: event, end: null })
        else {
          const waiting = chord.find(({ on }) => on === event.of)
          if (waiting) waiting.end = { tick: event.tick, velocity: event.velocity }
          else later.end(event.of, event.tick, event.velocity)
        }
        later.emitBefore(event.tick + 1, emit)
      },
      advance,
    }
  },
})
