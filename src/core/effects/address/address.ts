import type { Ticks } from '../../time/units'
import { LaterNotes } from '../later'
import { defineEffect, type EffectNoteOn, instantEffect, type RunningEffect } from '../noteEffect'
import { choice, number } from '../settings'
import { advanceGathered, GatheredChord } from '../together'

export const forceChannel = defineEffect({
  title: 'One channel',
  group: 'address',
  says: 'Everything goes out on one channel.',
  fields: { channel: number('Channel', [1, 16], 1) },
  start: ({ settingsAt }) =>
    instantEffect((on) => [{ ...on, channel: Math.round(settingsAt(on.tick).channel) }]),
})

/**
 * Voice distribution: of the notes that sound together the first goes to the first channel, the next to the next; those
 * beyond the last voice share its channel (common practice, no source).
 */
export const dealVoices = defineEffect({
  title: 'Deal voices to channels',
  group: 'address',
  says: 'Of the notes sounding together, the first goes to the first channel, the second to the next; the rest share the last.',
  fields: {
    voices: number('Voices', [1, 16], 4),
    first: number('First channel', [1, 16], 1),
    order: choice('First is', ['as they come', 'the lowest', 'the highest'], 'as they come'),
  },
  presets: {
    'Four strings': { voices: 4, order: 'the highest' },
    'Five brass': { voices: 5, order: 'the highest' },
  },
  start({ settingsAt }): RunningEffect {
    const voiceOf = new Map<EffectNoteOn, number>()
    const later = new LaterNotes()
    /** Where voices are told apart by height, a chord is waited for. */
    const chord = new GatheredChord()
    const deal = (on: EffectNoteOn, sounding: EffectNoteOn, byTicks: Ticks) => {
      const { voices, first } = settingsAt(sounding.tick)
      const taken = new Set(voiceOf.values())
      const last = Math.round(voices) - 1
      let voice = 0
      while (voice < last && taken.has(voice)) voice++
      voiceOf.set(on, voice)
      later.add(on, { ...sounding, channel: Math.min(16, Math.round(first) + voice) }, byTicks)
    }
    const end = (on: EffectNoteOn, atTicks: Ticks, velocity: number) => {
      later.end(on, atTicks, velocity)
      voiceOf.delete(on)
    }
    const release = (atTicks: Ticks) => {
      const notes = chord.take(settingsAt(atTicks).order === 'the highest')
      for (const { on } of notes) deal(on, { ...on, tick: atTicks }, atTicks - on.tick)
      for (const { on, end: ended } of notes) if (ended) end(on, ended.tick, ended.velocity)
    }
    return {
      receive(event, emit) {
        if (event.type === 'on') {
          if (settingsAt(event.tick).order === 'as they come') deal(event, { ...event }, 0)
          else chord.add(event)
        } else if (!chord.end(event.of, event.tick, event.velocity)) end(event.of, event.tick, event.velocity)
        later.emitBefore(event.tick + 1, emit)
      },
      advance: (toTicks, emit) => advanceGathered(chord, later, release, toTicks, emit),
    }
  },
})
