import type { EffectSlot } from '@/core/effects/catalogue'
import type { Note } from '@/core/event/note'

/** What goes into an effect and what comes out of it. */
export interface SlotFlow {
  readonly goesIn: readonly Note[]
  readonly comesOut: readonly Note[]
}

/** Changes one effect as a step of history; steps of one group become one. */
export type ChangeSlot = (label: string, change: (slot: EffectSlot) => EffectSlot, group?: string) => void
