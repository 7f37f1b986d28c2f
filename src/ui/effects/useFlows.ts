import { useMemo } from 'react'
import type { EffectSlot } from '@/core/effects/catalogue'
import type { MusicalContext } from '@/core/effects/noteEffect'
import { printChain } from '@/core/effects/print'
import type { Note } from '@/core/event/note'
import type { SlotFlow } from './slotTypes'

/** Notes beyond this are not run through every link of a chain for the preview. */
const mostNotesForFlow = 4000

/** What goes into each effect at work and comes out of it. */
export function useFlows(
  slots: readonly EffectSlot[],
  source: readonly Note[],
  context: MusicalContext,
): ReadonlyMap<string, SlotFlow> {
  return useMemo(() => {
    const flows = new Map<string, SlotFlow>()
    if (source.length === 0 || source.length > mostNotesForFlow) return flows
    let goesIn = source
    for (const slot of slots) {
      const comesOut = slot.isOn
        ? printChain(goesIn, { slots: [{ ...slot, isSolo: false }], changes: [] }, context, 1).notes
        : goesIn
      flows.set(slot.id, { goesIn, comesOut })
      if (comesOut.length > mostNotesForFlow) break
      goesIn = comesOut
    }
    return flows
  }, [slots, source, context])
}
