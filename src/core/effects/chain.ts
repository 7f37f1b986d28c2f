import type { EffectSlot } from '../project/schema'
import { type ArpeggioState, arpeggio } from './arpeggio'
import type { EffectEvent, EffectWindow } from './noteEffect'

/** State of each effect of a chain, by slot id. */
export type ChainState = Readonly<Record<string, ArpeggioState>>

/** Runs a window of events through the active effects of a chain, one after the other. */
export function processChain(
  slots: readonly EffectSlot[],
  window: EffectWindow,
  state: ChainState,
): { out: readonly EffectEvent[]; state: ChainState } {
  let events = window.events
  const next: Record<string, ArpeggioState> = {}
  for (const slot of slots) {
    if (!slot.isOn) continue
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
