import type { Ticks } from '../../time/units'
import { Later } from '../later'
import { defineEffect, type EffectNoteOn, type RunningEffect } from '../noteEffect'
import { choice, noteValueNames, noteValues, number } from '../settings'

export const fixedLength = defineEffect({
  title: 'Fixed length',
  group: 'force',
  says: 'Every note lasts a part of a note value, however long the key is held.',
  fields: { value: choice('Value', noteValueNames, '1/8'), gate: number('Of it', [5, 100], 90, '%') },
  presets: { Short: { value: '1/16', gate: 50 }, 'Written value': { gate: 100 } },
  start({ settingsAt }): RunningEffect {
    const later = new Later()
    return {
      receive(event, emit) {
        if (event.type === 'on') {
          const { value, gate } = settingsAt(event.tick)
          const made = { ...event }
          const tick = event.tick + Math.max(1, Math.round((noteValues[value] * gate) / 100))
          later.put(made)
          later.put({ type: 'off', tick, velocity: 64, of: made })
        }
        later.emitBefore(event.tick + 1, emit)
      },
      advance: (toTicks, emit) => later.emitBefore(toTicks, emit),
    }
  },
})

export const gateToGrid = defineEffect({
  title: 'Length to the grid',
  group: 'force',
  says: 'Each note lasts a part of the way to the next line of the grid.',
  fields: { grid: choice('Grid', noteValueNames, '1/4'), gate: number('Of the way', [5, 100], 90, '%') },
  start({ settingsAt }): RunningEffect {
    const later = new Later()
    return {
      receive(event, emit) {
        if (event.type === 'on') {
          const { grid, gate } = settingsAt(event.tick)
          const step = noteValues[grid]
          const wayTicks = (Math.floor(event.tick / step) + 1) * step - event.tick
          const made = { ...event }
          later.put(made)
          later.put({
            type: 'off',
            tick: event.tick + Math.max(1, Math.round((wayTicks * gate) / 100)),
            velocity: 64,
            of: made,
          })
        }
        later.emitBefore(event.tick + 1, emit)
      },
      advance: (toTicks, emit) => later.emitBefore(toTicks, emit),
    }
  },
})

/** Strokes of one chord belong together: about 20 ms at 120 bpm. */
const togetherTicks: Ticks = 420

export const legato = defineEffect({
  title: 'Legato',
  group: 'force',
  says: 'Each note lasts until the next one begins, or at most so long.',
  fields: { longest: choice('At most', noteValueNames, '1/1') },
  start({ settingsAt }): RunningEffect {
    let sounding: { readonly on: EffectNoteOn; readonly untilTicks: Ticks }[] = []
    let chordTicks: Ticks = Number.NEGATIVE_INFINITY
    const end = (
      atTicks: Ticks,
      which: (each: (typeof sounding)[number]) => boolean,
      emit: (e: { type: 'off'; tick: Ticks; velocity: number; of: EffectNoteOn }) => void,
    ) => {
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
    const endDue = (toTicks: Ticks, emit: Parameters<RunningEffect['advance']>[1]) => {
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
