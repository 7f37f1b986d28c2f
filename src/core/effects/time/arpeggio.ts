import type { Ticks } from '../../time/units'
import { chance } from '../chance'
import { defineEffect, type EffectNoteOn, type Emit, type RunningEffect } from '../noteEffect'
import { choice, noteValueNames, noteValues, number, onOff } from '../settings'
import { togetherTicks } from '../together'

const orders = ['up', 'down', 'up and down', 'as played', 'inwards', 'by chance', 'all together'] as const

/**
 * Plays the held keys one after the other.
 *
 * The first step sounds as soon as the keys of a new chord have had time to come together; the next ones fall on the grid of
 * the piece, the nearest line that leaves at least half a step to the first. A chord struck a little early or late therefore
 * costs no step and shifts no later one. A chord let go before it had come together still sounds once.
 */
export const arpeggio = defineEffect({
  title: 'Arpeggio',
  group: 'time',
  says: 'Plays the held keys one after the other, on the grid.',
  usesChance: ({ order }) => order === 'by chance',
  fields: {
    rate: choice('Rate', noteValueNames, '1/16'),
    order: choice('Order', orders, 'up'),
    octaves: number('Octaves', [1, 4], 1),
    gate: number('Gate', [5, 100], 80, '%'),
    swing: number('Swing', [50, 75], 50, '%'),
    restarts: choice('Begins anew', ['with each chord', 'with each bar', 'never'], 'with each chord'),
    holds: onOff('goes on after the keys are up', false),
  },
  presets: {
    'Rising eighths': { rate: '1/8', order: 'up' },
    'Wide and falling': { rate: '1/16', order: 'down', octaves: 3 },
    'Up and down': { rate: '1/16', order: 'up and down', octaves: 2 },
    'Triplet chance': { rate: '1/8 triplet', order: 'by chance' },
    Pulse: { rate: '1/8', order: 'all together', gate: 50 },
  },
  start({ settingsAt, seed, meterMap }): RunningEffect {
    /** In the order they were struck. */
    let held: EffectNoteOn[] = []
    /** What is played on after the keys are up. */
    let latched: EffectNoteOn[] = []
    let nextStepTicks: Ticks | null = null
    let stepNumber = 0
    let sounding: { readonly offTicks: Ticks; readonly notes: readonly EffectNoteOn[] } | null = null
    /** The last key went up then; it counts only when time goes on, since another may come down at once. */
    let emptySinceTicks: Ticks | null = null

    const endSounding = (atTicks: Ticks, emit: Emit) => {
      for (const of of sounding?.notes ?? []) emit({ type: 'off', tick: atTicks, velocity: 64, of })
      sounding = null
    }
    const step = (atTicks: Ticks, notes: readonly EffectNoteOn[], emit: Emit) => {
      endSounding(atTicks, emit)
      const settings = settingsAt(atTicks)
      const stepTicks = noteValues[settings.rate]
      const line = gridLine(Math.ceil((atTicks + stepTicks / 2) / stepTicks), stepTicks, settings.swing / 100)
      const following = line > atTicks ? line : line + stepTicks
      const place = placeOf(atTicks, stepTicks, settings.restarts)
      const ladder = ladderOf(notes, settings.order, Math.round(settings.octaves))
      const chosen =
        settings.order === 'all together'
          ? ladder
          : [ladder[rungAt(place, ladder.length, settings.order, chance(seed, atTicks))]!]
      const made = chosen.map((note) => ({ ...note, tick: atTicks }))
      for (const note of made) emit(note)
      const gateTicks = Math.max(1, Math.round(((following - atTicks) * settings.gate) / 100))
      sounding = { offTicks: atTicks + gateTicks, notes: made }
      nextStepTicks = following
      stepNumber++
    }
    const placeOf = (atTicks: Ticks, stepTicks: Ticks, restarts: string) => {
      if (restarts === 'with each chord') return stepNumber
      const from = restarts === 'with each bar' ? meterMap.measureAt(atTicks + stepTicks / 2).startTicks : 0
      return Math.max(0, Math.round((atTicks - from) / stepTicks))
    }
    const forget = (toTicks: Ticks) => {
      if (emptySinceTicks === null || emptySinceTicks >= toTicks) return
      emptySinceTicks = null
      nextStepTicks = null
      stepNumber = 0
    }
    const run = (toTicks: Ticks, emit: Emit) => {
      forget(toTicks)
      for (;;) {
        const offAt = sounding ? sounding.offTicks : Number.POSITIVE_INFINITY
        const stepAt = nextStepTicks ?? Number.POSITIVE_INFINITY
        if (Math.min(offAt, stepAt) >= toTicks) return
        if (offAt <= stepAt) endSounding(offAt, emit)
        else step(stepAt, held.length > 0 ? held : latched, emit)
      }
    }
    return {
      receive(event, emit) {
        if (sounding && sounding.offTicks <= event.tick) endSounding(event.tick, emit)
        if (event.type === 'on') {
          const begins = held.length === 0 && emptySinceTicks !== event.tick
          held.push(event)
          emptySinceTicks = null
          if (begins || nextStepTicks === null) {
            stepNumber = 0
            nextStepTicks = event.tick + togetherTicks
            latched = []
          }
          return
        }
        const left = held.filter((note) => note !== event.of)
        if (left.length === held.length) return
        if (left.length === 0 && stepNumber === 0) step(event.tick, held, emit)
        if (left.length === 0) {
          if (settingsAt(event.tick).holds) latched = held
          else emptySinceTicks = event.tick
        }
        held = left
      },
      advance: run,
      inputOver(atTicks) {
        held = []
        latched = []
        emptySinceTicks = null
        nextStepTicks = null
        stepNumber = 0
        if (sounding && sounding.offTicks > atTicks)
          sounding = { ...sounding, offTicks: Math.max(atTicks, sounding.notes[0]!.tick + 1) }
      },
    }
  },
})

/** Lines of the grid; every second one is late by the swing. */
function gridLine(index: number, stepTicks: Ticks, swing: number): Ticks {
  const isSecond = Math.abs(index % 2) === 1
  return index * stepTicks + (isSecond ? Math.round((2 * swing - 1) * stepTicks) : 0)
}

function ladderOf(
  notes: readonly EffectNoteOn[],
  order: (typeof orders)[number],
  octaves: number,
): EffectNoteOn[] {
  const rising = [...notes].sort((a, b) => a.key - b.key || a.sourceId - b.sourceId)
  const once = order === 'as played' ? notes : rising
  const ladder: EffectNoteOn[] = []
  for (let octave = 0; octave < octaves; octave++)
    for (const note of once)
      if (note.key + 12 * octave <= 127) ladder.push({ ...note, key: note.key + 12 * octave })
  return ladder
}

function rungAt(place: number, count: number, order: (typeof orders)[number], throwOfDice: number): number {
  switch (order) {
    case 'down':
      return count - 1 - (place % count)
    case 'up and down': {
      const period = Math.max(1, 2 * count - 2)
      const within = place % period
      return within < count ? within : period - within
    }
    case 'inwards': {
      const within = place % count
      return within % 2 === 0 ? within / 2 : count - 1 - (within - 1) / 2
    }
    case 'by chance':
      return Math.floor(throwOfDice * count)
    default:
      return place % count
  }
}
