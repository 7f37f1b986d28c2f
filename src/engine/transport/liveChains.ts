import type { EffectSlot } from '@/core/effects/catalogue'
import { Chain } from '@/core/effects/chain'
import type { EffectEvent, EffectNoteOn, MusicalContext } from '@/core/effects/noteEffect'
import type { Ticks } from '@/core/time/units'
import { FlowWatch, type SlotFlowNow } from './flowWatch'

interface LiveChain {
  readonly chain: Chain
  slots: readonly EffectSlot[]
  nowTicks: Ticks
  /** Notes that are held, by channel and key, the earliest first. */
  readonly held: Map<number, EffectNoteOn[]>
  readonly watch: FlowWatch
}

/** One stroke of a player. */
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
  private readonly reported = new Map<string, readonly SlotFlowNow[]>()
  /** Something else goes through the chains than was reported. */
  private areFlowsNew = false

  /** @param emit gets what comes out; `isAtOnce` says that it belongs to the stroke that is being taken */
  constructor(
    private context: MusicalContext,
    private readonly emit: (id: string, event: EffectEvent, isAtOnce: boolean) => void,
  ) {}

  get isEmpty(): boolean {
    return this.chains.size === 0
  }

  setContext(context: MusicalContext): void {
    this.context = context
    this.clear()
  }

  /** A note goes down; the chain begins with its first. */
  play(id: string, slots: readonly EffectSlot[], { key, velocity, channel }: Stroke, atTicks: Ticks): void {
    let live = this.chains.get(id)
    if (!live) {
      live = this.begin(id, slots, Math.floor(atTicks))
      this.chains.set(id, live)
    } else if (live.slots !== slots) this.change(id, slots)
    const tick = goOn(live, atTicks)
    const on: EffectNoteOn = { type: 'on', tick, key, velocity, channel, sourceId: this.nextSourceId++ }
    const address = channel * 128 + key
    live.held.set(address, [...(live.held.get(address) ?? []), on])
    live.chain.receive(on)
  }

  /** The earliest note of a key that is held goes up. */
  release(id: string, { key, channel }: Pick<Stroke, 'key' | 'channel'>, atTicks: Ticks): void {
    const live = this.chains.get(id)
    const of = live?.held.get(channel * 128 + key)?.shift()
    if (live && of) live.chain.receive({ type: 'off', tick: goOn(live, atTicks), velocity: 64, of })
  }

  private begin(id: string, slots: readonly EffectSlot[], nowTicks: Ticks): LiveChain {
    const watch = new FlowWatch()
    const live: LiveChain = {
      chain: new Chain(
        slots,
        this.context,
        // What was due before the stroke that is being taken is late already and goes out as such.
        (event) => this.emit(id, event, event.tick >= live.nowTicks),
        [],
        (slotId, side, event) => watch.note(slotId, side, event),
      ),
      watch,
      slots,
      nowTicks,
      held: new Map(),
    }
    return live
  }

  /** Other settings for a chain that is at work. */
  change(id: string, slots: readonly EffectSlot[]): void {
    const live = this.chains.get(id)
    if (!live) return
    live.slots = slots
    if (live.chain.change(live.nowTicks, slots)) live.watch.clear()
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
    this.areFlowsNew ||= this.chains.delete(id)
  }

  clear(): void {
    this.areFlowsNew ||= this.chains.size > 0
    this.chains.clear()
  }

  /** @returns what goes through each chain right now; null where that has not changed since it was asked last */
  flows(): readonly { readonly id: string; readonly flow: SlotFlowNow }[] | null {
    for (const [id, { watch }] of this.chains) {
      const report = watch.report()
      if (report) this.reported.set(id, report)
      this.areFlowsNew ||= report !== null
    }
    if (!this.areFlowsNew) return null
    this.areFlowsNew = false
    for (const id of this.reported.keys()) if (!this.chains.has(id)) this.reported.delete(id)
    return [...this.reported].flatMap(([id, flows]) => flows.map((flow) => ({ id, flow })))
  }
}

/** Time of a chain never goes back: a stroke that comes late belongs to now. */
function goOn(live: LiveChain, atTicks: Ticks): Ticks {
  live.nowTicks = Math.max(live.nowTicks, Math.round(atTicks))
  return live.nowTicks
}
