import type { EffectEvent, EffectNoteOn } from '@/core/effects/noteEffect'

/** Keys that go into an effect and come out of it right now. */
export interface SlotFlowNow {
  readonly slotId: string
  readonly goesIn: readonly number[]
  readonly comesOut: readonly number[]
}

interface Side {
  readonly sounding: Set<EffectNoteOn>
  /** Since the last report: a note shorter than the time between two is seen as well. */
  struck: number[]
}

/** Watches what goes in and out of each effect of a live chain, for the picture of it. */
export class FlowWatch {
  private readonly slots = new Map<string, { readonly goesIn: Side; readonly comesOut: Side }>()
  private hasChanged = false

  note(slotId: string, side: 'goesIn' | 'comesOut', event: EffectEvent): void {
    if (event.type === 'control') return
    let slot = this.slots.get(slotId)
    if (!slot) {
      slot = { goesIn: newSide(), comesOut: newSide() }
      this.slots.set(slotId, slot)
    }
    const { sounding, struck } = slot[side]
    if (event.type === 'on') {
      sounding.add(event)
      struck.push(event.key)
    } else sounding.delete(event.of)
    this.hasChanged = true
  }

  /** The effects have begun anew: nothing sounds through them. */
  clear(): void {
    if (this.slots.size === 0) return
    this.slots.clear()
    this.hasChanged = true
  }

  /** @returns null where nothing has changed since it was asked last; keys are in order, each once */
  report(): readonly SlotFlowNow[] | null {
    if (!this.hasChanged) return null
    this.hasChanged = false
    const flows: SlotFlowNow[] = []
    for (const [slotId, { goesIn, comesOut }] of this.slots) {
      const flow = { slotId, goesIn: this.take(goesIn), comesOut: this.take(comesOut) }
      if (flow.goesIn.length > 0 || flow.comesOut.length > 0) flows.push(flow)
    }
    return flows
  }

  private take(side: Side): readonly number[] {
    const keys = new Set(side.struck)
    for (const on of side.sounding) keys.add(on.key)
    // What was only struck is gone from the next report on.
    if (side.struck.length > 0) this.hasChanged = true
    side.struck = []
    return [...keys].sort((a, b) => a - b)
  }
}

const newSide = (): Side => ({ sounding: new Set(), struck: [] })
