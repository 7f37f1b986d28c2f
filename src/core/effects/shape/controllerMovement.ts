import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import { defineEffect, type EffectNoteOn, type Emit, type RunningEffect } from '../noteEffect'
import { choice, noteValueNames, noteValues, number, numbers } from '../settings'
import { shapeAt, shapeNames } from './shapes'

/** A moving controller is sent this often: about 20 ms at 120 bpm. */
const everyTicks: Ticks = TICKS_PER_QUARTER / 24

export const controllerMovement = defineEffect({
  title: 'Moving controller',
  group: 'shape',
  says: 'A controller moves with the bars while notes sound: swelling, wobbling, stepping.',
  usesChance: ({ shape }) => shape === 'random and hold',
  fields: {
    controller: number('Controller', [0, 119], 11),
    shape: choice('Shape', shapeNames, 'sine'),
    period: choice('Once in', noteValueNames, '1/1'),
    low: number('From', [0, 127], 40),
    high: number('To', [0, 127], 120),
    points: numbers('Points', [0, 100], [0, 60, 100, 60], 32),
  },
  presets: {
    Swell: { controller: 11, shape: 'rising', period: '1/1' },
    Vibrato: { controller: 1, shape: 'sine', period: '1/8', low: 0, high: 70 },
    'Round the room': { controller: 10, shape: 'triangle', period: '1/1', low: 0, high: 127 },
  },
  start({ settingsAt, seed }): RunningEffect {
    const sounding = new Map<EffectNoteOn, number>()
    let nextTicks: Ticks | null = null
    let last: number | null = null
    const move = (tick: Ticks, emit: Emit) => {
      const { controller, shape, period, low, high, points } = settingsAt(tick)
      const value = Math.round(low + (high - low) * shapeAt(shape, noteValues[period], tick, points, seed))
      if (value === last) return
      last = value
      for (const channel of new Set(sounding.values()))
        emit({ type: 'control', tick, channel, number: Math.round(controller), value })
    }
    return {
      receive(event, emit) {
        if (event.type === 'on') {
          if (sounding.size === 0) {
            last = null
            nextTicks = Math.floor(event.tick / everyTicks) * everyTicks + everyTicks
          }
          const isNewChannel = ![...sounding.values()].includes(event.channel)
          sounding.set(event, event.channel)
          if (isNewChannel) {
            last = null
            move(event.tick, emit)
          }
          emit(event)
          return
        }
        sounding.delete(event.of)
        if (sounding.size === 0) nextTicks = null
        emit(event)
      },
      advance(toTicks, emit) {
        while (nextTicks !== null && nextTicks < toTicks) {
          move(nextTicks, emit)
          nextTicks += everyTicks
        }
      },
    }
  },
})
