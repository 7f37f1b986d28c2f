import { z } from 'zod'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { chance, type EffectEvent, type NoteEffect } from './noteEffect'

/** Step lengths: the denominator of a whole note, plain, dotted or as a triplet. */
export const arpeggioRates = {
  '1/4': TICKS_PER_QUARTER,
  '1/8 dotted': (TICKS_PER_QUARTER * 3) / 4,
  '1/4 triplet': (TICKS_PER_QUARTER * 2) / 3,
  '1/8': TICKS_PER_QUARTER / 2,
  '1/16 dotted': (TICKS_PER_QUARTER * 3) / 8,
  '1/8 triplet': TICKS_PER_QUARTER / 3,
  '1/16': TICKS_PER_QUARTER / 4,
  '1/16 triplet': TICKS_PER_QUARTER / 6,
  '1/32': TICKS_PER_QUARTER / 8,
} as const

export const arpeggioDirections = ['up', 'down', 'up and down', 'as played', 'by chance'] as const

export const arpeggioSettingsSchema = z.object({
  rate: z.enum(Object.keys(arpeggioRates) as [keyof typeof arpeggioRates, ...(keyof typeof arpeggioRates)[]]),
  direction: z.enum(arpeggioDirections),
  octaves: z.number().int().min(1).max(4),
  /** Part of the step that a note sounds, 0.05–1. */
  gate: z.number().min(0.05).max(1),
  seed: z.number().int().min(0).max(0xffffffff),
})

export type ArpeggioSettings = Readonly<z.infer<typeof arpeggioSettingsSchema>>

export const defaultArpeggio: ArpeggioSettings = {
  rate: '1/16',
  direction: 'up',
  octaves: 1,
  gate: 0.8,
  seed: 1,
}

/** Time for the keys of a chord to come together: about 20 ms at 120 bpm. */
const gatherTicks = TICKS_PER_QUARTER / 24

interface HeldNote {
  readonly key: number
  readonly velocity: number
  readonly channel: number
  readonly sourceId: number
}

export interface ArpeggioState {
  /** In the order they were struck. */
  readonly held: readonly HeldNote[]
  readonly nextStepTicks: Ticks | null
  readonly stepNumber: number
  readonly sounding: { readonly offTicks: Ticks; readonly note: HeldNote } | null
}

const silent: ArpeggioState = { held: [], nextStepTicks: null, stepNumber: 0, sounding: null }

/**
 * Plays the held keys one after the other.
 *
 * The first step sounds as soon as the keys of a new chord have had time to come together; the next ones fall on the
 * grid of the piece, the nearest grid line that leaves at least half a step to the first. A chord struck a little early
 * or late therefore costs no step and shifts no later one. A chord let go before it had come together still sounds once.
 * Chance depends on the seed and the position only.
 */
export const arpeggio: NoteEffect<ArpeggioSettings, ArpeggioState> = {
  kind: 'arpeggio',
  initialState: () => silent,

  process(window, initial, settings) {
    const stepTicks = arpeggioRates[settings.rate]
    const out: EffectEvent[] = []
    let { held, nextStepTicks, stepNumber, sounding } = initial

    const endSounding = (atTicks: Ticks) => {
      if (!sounding) return
      out.push({ type: 'off', tick: atTicks, ...sounding.note, velocity: 64 })
      sounding = null
    }
    /** All that is due before `limitTicks` (exclusive): offs first, then steps, in order of time. */
    const runUntil = (limitTicks: Ticks) => {
      for (;;) {
        const offAt = sounding ? sounding.offTicks : Number.POSITIVE_INFINITY
        const stepAt = nextStepTicks ?? Number.POSITIVE_INFINITY
        if (Math.min(offAt, stepAt) >= limitTicks) return
        if (offAt <= stepAt) endSounding(offAt)
        else step(stepAt)
      }
    }
    const step = (atTicks: Ticks) => {
      endSounding(atTicks)
      const following = Math.ceil((atTicks + stepTicks / 2) / stepTicks) * stepTicks
      const note = pick(held, stepNumber, atTicks, settings)
      out.push({ type: 'on', tick: atTicks, ...note })
      const gateTicks = Math.max(1, Math.round((following - atTicks) * settings.gate))
      sounding = { offTicks: atTicks + gateTicks, note }
      nextStepTicks = following
      stepNumber++
    }

    const events = window.events
    for (let index = 0; index < events.length; ) {
      const atTicks = events[index]!.tick
      runUntil(atTicks)
      if (sounding && sounding.offTicks <= atTicks) endSounding(atTicks)
      for (; index < events.length && events[index]!.tick === atTicks; index++) {
        const event = events[index]!
        if (event.type === 'on') {
          const { key, velocity, channel, sourceId } = event
          held = [...held, { key, velocity, channel, sourceId }]
        } else {
          const left = held.filter((note) => note.sourceId !== event.sourceId)
          if (left.length === 0 && held.length > 0 && stepNumber === 0) step(atTicks)
          held = left
        }
      }
      if (held.length === 0) {
        nextStepTicks = null
        stepNumber = 0
      } else if (nextStepTicks === null) nextStepTicks = atTicks + gatherTicks
    }
    runUntil(window.toTicks)
    return { out, state: { held, nextStepTicks, stepNumber, sounding } }
  },

  flush(atTicks, state) {
    const out: EffectEvent[] = state.sounding
      ? [{ type: 'off', tick: Math.max(atTicks, 0), ...state.sounding.note, velocity: 64 }]
      : []
    return { out, state: silent }
  },
}

function pick(
  held: readonly HeldNote[],
  stepNumber: number,
  atTicks: Ticks,
  settings: ArpeggioSettings,
): HeldNote {
  const rising = [...held].sort((a, b) => a.key - b.key || a.sourceId - b.sourceId)
  const order = settings.direction === 'as played' ? [...held] : rising
  const ladder: HeldNote[] = []
  for (let octave = 0; octave < settings.octaves; octave++) {
    for (const note of order)
      if (note.key + 12 * octave <= 127) ladder.push({ ...note, key: note.key + 12 * octave })
  }
  const count = ladder.length
  switch (settings.direction) {
    case 'down':
      return ladder[count - 1 - (stepNumber % count)]!
    case 'up and down': {
      const period = Math.max(1, 2 * count - 2)
      const place = stepNumber % period
      return ladder[place < count ? place : period - place]!
    }
    case 'by chance':
      return ladder[Math.floor(chance(settings.seed, atTicks) * count)]!
    default:
      return ladder[stepNumber % count]!
  }
}
