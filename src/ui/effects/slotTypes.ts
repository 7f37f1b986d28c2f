import type { EffectSlot } from '@/core/effects/catalogue'
import type { Note } from '@/core/event/note'
import type { InputAddress } from '@/core/routing/address'
import type { LiveFlow } from '@/engine/protocol'

/** What goes into an effect and what comes out of it. */
export interface SlotFlow {
  readonly goesIn: readonly Note[]
  readonly comesOut: readonly Note[]
}

/** Whose chain it is. */
export type ChainPlace = { readonly trackId: string } | InputAddress

/** Whether what goes by belongs to a chain; one of a whole port has all its channels. */
export function isOfChain({ chain }: LiveFlow, place: ChainPlace): boolean {
  if ('trackId' in chain) return 'trackId' in place && chain.trackId === place.trackId
  if ('trackId' in place) return false
  return chain.portId === place.portId && (place.channel === null || chain.channel === place.channel)
}

/** Changes one effect as a step of history; steps of one group become one. */
export type ChangeSlot = (label: string, change: (slot: EffectSlot) => EffectSlot, group?: string) => void
