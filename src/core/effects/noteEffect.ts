import type { Ticks } from '../time/units'

/**
 * A note going down or up on its way through effects. `sourceId` is the note that the player (or the track) gave;
 * whatever an effect makes of it carries the same `sourceId`, which is the lineage of the result.
 */
export interface EffectEvent {
  readonly type: 'on' | 'off'
  readonly tick: Ticks
  readonly key: number
  readonly velocity: number
  readonly channel: number
  readonly sourceId: number
}

/** Half-open stretch of time with the input events in it, in order (at one tick: offs before ons). */
export interface EffectWindow {
  readonly fromTicks: Ticks
  readonly toTicks: Ticks
  readonly events: readonly EffectEvent[]
}

/**
 * A note effect is a pure function from windows of events to events. Cutting the same input into any windows gives
 * the same output (window invariance): that is what makes what is heard live equal to what is printed.
 */
export interface NoteEffect<Settings, State> {
  readonly kind: string
  initialState(): State
  process(window: EffectWindow, state: State, settings: Settings): { out: EffectEvent[]; state: State }
  /** Ends everything that still sounds: for a stop, a route change, a lost port. */
  flush(atTicks: Ticks, state: State): { out: EffectEvent[]; state: State }
}

/** Number in [0, 1) that depends only on the seed and the counters, never on the order of calls. */
export function chance(seed: number, ...counters: number[]): number {
  let hash = (seed ^ 0x9e3779b9) >>> 0
  for (const counter of counters) {
    hash = Math.imul(hash ^ (counter >>> 0), 0x85ebca6b)
    hash ^= hash >>> 13
    hash = Math.imul(hash, 0xc2b2ae35)
    hash ^= hash >>> 16
  }
  hash = Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d)
  hash ^= hash >>> 12
  return (hash >>> 0) / 4294967296
}
