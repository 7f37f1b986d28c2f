import type { Ticks } from '../../time/units'
import { Later } from '../later'
import { defineEffect, type EffectNoteOn, type Emit, type RunningEffect } from '../noteEffect'
import { choice, noteValueNames, noteValues, number } from '../settings'
import { togetherTicks } from '../together'

/** Every note as long as is said when it begins, however long its key is held. */
function lasting(lengthOf: (on: EffectNoteOn) => Ticks): RunningEffect {
  const later = new Later()
  return {
    receive(event, emit) {
      if (event.type === 'on') {
        const made = { ...event }
        const tick = event.tick + Math.max(1, Math.round(lengthOf(event)))
        later.put(made)
        later.put({ type: 'off', tick, velocity: 64, of: made })
      }
      later.emitBefore(event.tick + 1, emit)
    },
    advance: (toTicks, emit) => later.emitBefore(toTicks, emit),
  }
}

export const fixedLength = defineEffect({
  title: 'Fixed length',
  group: 'force',
  says: 'Every note lasts a part of a note value, however long the key is held.',
  fields: { value: choice('Value', noteValueNames, '1/8'), gate: number('Of it', [5, 100], 90, '%') },
  presets: { Short: { value: '1/16', gate: 50 }, 'Written value': { gate: 100 } },
  start: ({ settingsAt }) =>
    lasting((on) => {
      const { value, gate } = settingsAt(on.tick)
      return (noteValues[value] * gate) / 100
    }),
})

export const gateToGrid = defineEffect({
  title: 'Length to the grid',
  group: 'force',
  says: 'Each note lasts a part of the way to the next line of the grid.',
  fields: { grid: choice('Grid', noteValueNames, '1/4'), gate: number('Of the way', [5, 100], 90, '%') },
  start: ({ settingsAt }) =>
    lasting((on) => {
      const { grid, gate } = settingsAt(on.tick)
      const step = noteValues[grid]
      return (((Math.floor(on.tick / step) + 1) * step - on.tick) * gate) / 100
    }),
})

interface Sounding {
  readonly on: EffectNoteOn
  readonly untilTicks: Ticks
}

export const legato = defineEffect({
  title: 'Legato',
  group: 'force',
  says: 'Each note lasts until the next one begins, or at most so long.',
  fields: { longest: choice('At most', noteValueNames, '1/1') },
  start({ settingsAt }): RunningEffect {
    let sounding: Sounding[] = []
    let chordTicks: Ticks = Number.NEGATIVE_INFINITY
    const end = (atTicks: Ticks, which: (each: Sounding) => boolean, emit: Emit) => {
      const ending = sounding.filter(which)
      sounding = sounding.filter((each) => !which(each))
      for (const { on, untilTicks } of ending)
        emit({
          type: 'off',
          tick: Math.max(on.tick + 1, Math.min(atTicks, untilTicks)),
          velocity: 64,
          of: on,
        })
    }
    const endDue = (toTicks: Ticks, emit: Emit) => {
      for (;;) {
        const next = Math.min(...sounding.map((each) => each.untilTicks))
        if (!(next < toTicks)) return
        end(next, (each) => each.untilTicks === next, emit)
      }
    }
    return {
      receive(event, emit) {
        endDue(event.tick + 1, emit)
        if (event.type !== 'on') return
        if (event.tick - chordTicks > togetherTicks) {
          chordTicks = event.tick
          end(event.tick, () => true, emit)
        }
        const made = { ...event }
        emit(made)
        sounding.push({ on: made, untilTicks: event.tick + noteValues[settingsAt(event.tick).longest] })
      },
      advance: endDue,
    }
  },
})
