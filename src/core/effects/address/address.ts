import type { Ticks } from '../../time/units'
import { LaterNotes } from '../later'
import { defineEffect, type EffectNoteOn, type Emit, instantEffect, type RunningEffect } from '../noteEffect'
import { choice, number } from '../settings'

export const forceChannel = defineEffect({
  title: 'One channel',
  group: 'address',
  says: 'Everything goes out on one channel.',
  fields: { channel: number('Channel', [1, 16], 1) },
  start: ({ settingsAt }) =>
    instantEffect((on) => [{ ...on, channel: Math.round(settingsAt(on.tick).channel) }]),
})

/** Strokes of one chord belong together: about 20 ms at 120 bpm. */
const gatherTicks: Ticks = 420

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
    /** A chord that comes together, where voices are told apart by height. */
    let chord: { readonly on: EffectNoteOn; end: { tick: Ticks; velocity: number } | null }[] = []
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
    const release = (atTicks: Ticks, order: string) => {
      const sorted = [...chord].sort((a, b) =>
        order === 'the highest' ? b.on.key - a.on.key : a.on.key - b.on.key,
      )
      chord = []
      for (const { on } of sorted) deal(on, { ...on, tick: atTicks }, atTicks - on.tick)
      for (const { on, end: ended } of sorted) if (ended) end(on, ended.tick, ended.velocity)
    }
    const releaseDue = (toTicks: Ticks, emit: Emit) => {
      const first = chord[0]
      if (first && first.on.tick + gatherTicks < toTicks) {
        later.emitBefore(first.on.tick + gatherTicks, emit)
        release(first.on.tick + gatherTicks, settingsAt(first.on.tick).order)
      }
      later.emitBefore(toTicks, emit)
    }
    return {
      receive(event, emit) {
        if (event.type === 'on') {
          if (settingsAt(event.tick).order === 'as they come') deal(event, { ...event }, 0)
          else chord.push({ on: event, end: null })
        } else {
          const waiting = chord.find(({ on }) => on === event.of)
          if (waiting) waiting.end = { tick: event.tick, velocity: event.velocity }
          else end(event.of, event.tick, event.velocity)
        }
        later.emitBefore(event.tick + 1, emit)
      },
      advance: releaseDue,
    }
  },
})
