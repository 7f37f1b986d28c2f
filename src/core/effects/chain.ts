import type { EffectSlot } from '../project/schema'
import type { Ticks } from '../time/units'
import { type ArpeggioState, arpeggio } from './arpeggio'
import type { EffectEvent, EffectWindow } from './noteEffect'

/** State of each effect of a chain, by slot id. */
export type ChainState = Readonly<Record<string, ArpeggioState>>

/** The effects of a chain that are switched on, in order. */
export function activeEffects(slots: readonly EffectSlot[]): EffectSlot[] {
  return slots.filter((slot) => slot.isOn)
}

/** Runs a window of events through the active effects of a chain, one after the other. */
export function processChain(
  slots: readonly EffectSlot[],
  window: EffectWindow,
  state: ChainState,
): { out: readonly EffectEvent[]; state: ChainState } {
  let events = window.events
  const next: Record<string, ArpeggioState> = {}
  for (const slot of activeEffects(slots)) {
    const result = arpeggio.process(
      { ...window, events },
      state[slot.id] ?? arpeggio.initialState(),
      slot.settings,
    )
    events = result.out
    next[slot.id] = result.state
  }
  return { out: events, state: next }
}

/** Ends all that the chain still sounds. */
export function flushChain(slots: readonly EffectSlot[], atTicks: Ticks, state: ChainState): EffectEvent[] {
  const active = activeEffects(slots)
  const out: EffectEvent[] = []
  for (const slot of active) {
    const own = state[slot.id]
    if (own) out.push(...arpeggio.flush(atTicks, own).out)
  }
  return out
}
