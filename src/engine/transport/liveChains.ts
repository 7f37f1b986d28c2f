import type { EffectSlot } from '@/core/effects/catalogue'
import { Chain } from '@/core/effects/chain'
import type { EffectEvent, EffectNoteOn, MusicalContext } from '@/core/effects/noteEffect'
import type { Ticks } from '@/core/time/units'

interface LiveChain {
  readonly chain: Chain
  slots: readonly EffectSlot[]
  nowTicks: Ticks
  /** Notes that are held, by channel and key, the earliest first. */
  readonly held: Map<number, EffectNoteOn[]>
}

/** One stroke (velocity above 0) or release of a player. */
export interface Stroke {
  readonly key: number
  readonly velocity: number
  readonly channel: number
}

/**
 * The effects that notes pass through as they are played, a chain for each track or source. What a note causes at once comes
 * out at once; what is due later comes out when time has passed.
 */
export class LiveChains {
  private readonly chains = new Map<string, LiveChain>()
  private nextSourceId = 1
  private context: MusicalContext | null = null

  /** @param emit gets what comes out; `isAtOnce` says that it belongs to the stroke that is being taken */
  constructor(private readonly emit: (id: string, event: EffectEvent, isAtOnce: boolean) => void) {}

  get isEmpty(): boolean {
    return this.chains.size === 0
  }

  setContext(context: MusicalContext): void {
    this.context = context
    this.chains.clear()
  }

  play(id: string, slots: readonly EffectSlot[], stroke: Stroke, atTicks: Ticks): void {
    if (!this.context) return
    let live = this.chains.get(id)
    if (!live) {
      const { context } = this
      const created: LiveChain = {
        chain: new Chain(slots, context, (event) => this.emit(id, event, event.tick >= created.nowTicks)),
        slots,
        nowTicks: Math.floor(atTicks),
        held: new Map(),
      }
      live = created
      this.chains.set(id, live)
    } else if (live.slots !== slots) this.change(id, slots)
    const tick = Math.max(live.nowTicks, Math.round(atTicks))
    // What was due before this stroke is late already and goes out as such.
    live.nowTicks = tick
    const address = stroke.channel * 128 + stroke.key
    const waiting = live.held.get(address) ?? []
    if (stroke.velocity > 0) {
      const { key, velocity, channel } = stroke
      const on: EffectNoteOn = { type: 'on', tick, key, velocity, channel, sourceId: this.nextSourceId++ }
      live.held.set(address, [...waiting, on])
      live.chain.receive(on)
    } else {
      const of = waiting.shift()
      if (of) live.chain.receive({ type: 'off', tick, velocity: 64, of })
    }
  }

  /** Other settings for a chain that is at work. */
  change(id: string, slots: readonly EffectSlot[]): void {
    const live = this.chains.get(id)
    if (!live) return
    live.slots = slots
    live.chain.change(live.nowTicks, slots)
  }

  /** Emits what is due up to a position. */
  advance(toTicks: Ticks): void {
    for (const live of this.chains.values()) {
      if (toTicks <= live.nowTicks) continue
      live.nowTicks = toTicks
      live.chain.advance(toTicks)
    }
  }

  forget(id: string): void {
    this.chains.delete(id)
  }

  clear(): void {
    this.chains.clear()
  }
}
