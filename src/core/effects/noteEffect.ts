import type { MeterMap } from '../time/meterMap'
import type { TempoMap } from '../time/tempoMap'
import type { Ticks } from '../time/units'
import type { Fields, SettingsOf } from './settings'

/**
 * A note going down on its way through effects. Its identity is the object itself: the note-off that ends it refers to it.
 * `sourceId` is the note that the player (or the track) gave; whatever an effect makes of it carries the same `sourceId`,
 * which is the lineage of the result.
 */
export interface EffectNoteOn {
  readonly type: 'on'
  readonly tick: Ticks
  readonly key: number
  readonly velocity: number
  readonly channel: number
  readonly sourceId: number
}

export interface EffectNoteOff {
  readonly type: 'off'
  readonly tick: Ticks
  /** Release velocity. */
  readonly velocity: number
  readonly of: EffectNoteOn
}

/** A controller moved by an effect. */
export interface EffectControl {
  readonly type: 'control'
  readonly tick: Ticks
  readonly channel: number
  readonly number: number
  readonly value: number
}

export type EffectEvent = EffectNoteOn | EffectNoteOff | EffectControl

export type Emit = (event: EffectEvent) => void

/** What an effect may know of the piece. */
export interface MusicalContext {
  readonly tempoMap: TempoMap
  readonly meterMap: MeterMap
}

/** What an effect runs with: its settings at a position (they may move), a seed of its own, and the piece. */
export interface EffectWorld<Settings> extends MusicalContext {
  settingsAt(tick: Ticks): Settings
  readonly seed: number
}

/**
 * An effect at work. It is told of its input in order of time, and of time passing in between; what it emits is in order of
 * time and never before the input that caused it. How often `advance` is called makes no difference to the output (window
 * invariance): that is what makes what is heard live equal to what is printed.
 */
export interface RunningEffect {
  /** One note down or up. `advance` has been called with its tick before. */
  receive(event: EffectNoteOn | EffectNoteOff, emit: Emit): void
  /** Emits what is due before a position (exclusive). */
  advance(toTicks: Ticks, emit: Emit): void
  /** Nothing will be played any more: what would go on for ever ends here. */
  inputOver?(atTicks: Ticks): void
}

export type EffectGroup = 'pitch' | 'time' | 'choice' | 'force' | 'address' | 'shape'

/** A note effect: a pure function of events, settings and seed, started anew for every run. */
export interface NoteEffect<F extends Fields = Fields> {
  readonly title: string
  readonly group: EffectGroup
  /** What it does, in one plain sentence. */
  readonly says: string
  readonly fields: F
  /** Whether the seed makes a difference with such settings. */
  usesChance(settings: SettingsOf<F>): boolean
  /** Named settings to begin with. */
  readonly presets: Readonly<Record<string, Partial<SettingsOf<F>>>>
  start(world: EffectWorld<SettingsOf<F>>): RunningEffect
}

/** Lets the type of the settings follow from the fields. */
export function defineEffect<const F extends Fields>(
  effect: Omit<NoteEffect<F>, 'usesChance' | 'presets'> &
    Partial<Pick<NoteEffect<F>, 'usesChance' | 'presets'>>,
): NoteEffect<F> {
  return { usesChance: () => false, presets: {}, ...effect }
}

/** An effect with no time of its own: each note-on becomes any number of note-ons at once, which end with it. */
export function instantEffect(
  eachNote: (on: EffectNoteOn) => readonly Omit<EffectNoteOn, 'type' | 'tick' | 'sourceId'>[],
): RunningEffect {
  /** What became of each note that did not pass as it is. */
  const made = new Map<EffectNoteOn, readonly EffectNoteOn[]>()
  return {
    receive(event, emit) {
      if (event.type === 'on') {
        const wanted = eachNote(event)
        if (wanted.length === 1 && wanted[0] === event) {
          emit(event)
          return
        }
        const { tick, sourceId } = event
        const notes: EffectNoteOn[] = []
        for (const note of wanted) {
          if (note === event) notes.push(event)
          else if (note.key >= 0 && note.key <= 127)
            notes.push({
              type: 'on',
              tick,
              key: note.key,
              velocity: note.velocity,
              channel: note.channel,
              sourceId,
            })
        }
        made.set(event, notes)
        for (const note of notes) emit(note)
        return
      }
      const notes = made.get(event.of)
      if (!notes) {
        emit(event)
        return
      }
      made.delete(event.of)
      const { tick, velocity } = event
      for (const of of notes) emit(of === event.of ? event : { type: 'off', tick, velocity, of })
    },
    advance() {},
  }
}
