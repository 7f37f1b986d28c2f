import { LaterNotes, ticksOfMs } from '../later'
import { defineEffect, type EffectNoteOn, type RunningEffect } from '../noteEffect'
import { choice, noteValueNames, noteValues, number } from '../settings'

/** Softer than this an echo is not heard any more. */
const softest = 6
const mostEchoes = 24

interface Echo {
  readonly byTicks: number
  readonly velocity: number
  readonly semitones: number
}

/** Each note once as it is, then again and again. */
function echoing(echoesOf: (on: EffectNoteOn) => readonly Echo[]): RunningEffect {
  const later = new LaterNotes()
  return {
    receive(event, emit) {
      if (event.type === 'on') {
        const { channel, sourceId } = event
        later.add(event, event, 0)
        for (const { byTicks, velocity, semitones } of echoesOf(event)) {
          const key = event.key + semitones
          if (key < 0 || key > 127) continue
          later.add(
            event,
            { type: 'on', tick: event.tick + byTicks, key, velocity, channel, sourceId },
            byTicks,
          )
        }
      } else later.end(event.of, event.tick, event.velocity)
      later.emitBefore(event.tick + 1, emit)
    },
    advance: (toTicks, emit) => later.emitBefore(toTicks, emit),
  }
}

export const repeat = defineEffect({
  title: 'Repeat',
  group: 'time',
  says: 'Each note comes again so many times, a note value apart, softer and in other pitches if wished.',
  fields: {
    count: number('Times', [1, 16], 3),
    spacing: choice('Apart', noteValueNames, '1/8'),
    fade: number('Each one at', [20, 120], 80, '%'),
    pitchStep: number('Semitones each', [-12, 12], 0),
  },
  presets: {
    'Drum roll': { count: 3, spacing: '1/32', fade: 90 },
    'Rising octaves': { count: 2, spacing: '1/8', pitchStep: 12 },
  },
  start: ({ settingsAt }) =>
    echoing((on) => {
      const { count, spacing, fade, pitchStep } = settingsAt(on.tick)
      const echoes: Echo[] = []
      for (let index = 1; index <= Math.round(count); index++)
        echoes.push({
          byTicks: index * noteValues[spacing],
          velocity: Math.max(1, Math.min(127, Math.round(on.velocity * (fade / 100) ** index))),
          semitones: Math.round(pitchStep) * index,
        })
      return echoes
    }),
})

export const echo = defineEffect({
  title: 'Echo',
  group: 'time',
  says: 'Each note comes back in milliseconds, not in beats, and dies away.',
  fields: {
    spacingMs: number('After', [20, 2000], 320, 'ms'),
    feedback: number('Each one at', [0, 90], 60, '%'),
  },
  presets: { 'Close wall': { spacingMs: 90, feedback: 40 }, 'Far cliff': { spacingMs: 900, feedback: 55 } },
  start: ({ settingsAt, tempoMap }) =>
    echoing((on) => {
      const { spacingMs, feedback } = settingsAt(on.tick)
      const echoes: Echo[] = []
      for (let index = 1; index <= mostEchoes; index++) {
        const velocity = Math.round(on.velocity * (feedback / 100) ** index)
        if (velocity < softest) break
        echoes.push({ byTicks: ticksOfMs(tempoMap, on.tick, spacingMs * index), velocity, semitones: 0 })
      }
      return echoes
    }),
})
