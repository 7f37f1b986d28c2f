import { type ChainState, processChain } from '@/core/effects/chain'
import type { EffectEvent } from '@/core/effects/noteEffect'
import { byTickOffsFirst } from '@/core/effects/print'
import type { EffectSlot } from '@/core/project/schema'
import type { Ticks } from '@/core/time/units'

interface LiveChain {
  chain: ChainState
  processedTicks: Ticks
  pending: EffectEvent[]
  /** Sources of the notes that are held, by key, the earliest first. */
  readonly heldIds: Map<number, number[]>
}

/** The effects that notes pass through as they are played, in windows of one tick of the engine, a chain for each track. */
export class LiveEffects {
  private readonly chains = new Map<string, LiveChain>()
  private nextSourceId = 1

  /** One stroke (velocity above 0) or release of a player. */
  add(trackId: string, key: number, velocity: number, atTicks: Ticks): void {
    let live = this.chains.get(trackId)
    if (!live) {
      live = { chain: {}, processedTicks: Math.floor(atTicks), pending: [], heldIds: new Map() }
      this.chains.set(trackId, live)
    }
    const tick = Math.max(live.processedTicks, Math.round(atTicks))
    const ids = live.heldIds.get(key) ?? []
    if (velocity > 0) {
      const sourceId = this.nextSourceId++
      live.heldIds.set(key, [...ids, sourceId])
      live.pending.push({ type: 'on', tick, key, velocity, channel: 1, sourceId })
    } else {
      const sourceId = ids.shift()
      if (sourceId !== undefined)
        live.pending.push({ type: 'off', tick, key, velocity: 64, channel: 1, sourceId })
    }
  }

  /** What comes out of every chain up to a position. */
  *advance(
    effectsOf: (trackId: string) => readonly EffectSlot[] | undefined,
    toTicks: Ticks,
  ): Generator<{ readonly trackId: string; readonly event: EffectEvent }> {
    for (const [trackId, live] of this.chains) {
      const effects = effectsOf(trackId)
      if (!effects || toTicks <= live.processedTicks) continue
      const due = live.pending.filter((event) => event.tick < toTicks).sort(byTickOffsFirst)
      live.pending = live.pending.filter((event) => event.tick >= toTicks)
      const window = { fromTicks: live.processedTicks, toTicks, events: due }
      const { out, state } = processChain(effects, window, live.chain)
      live.chain = state
      live.processedTicks = toTicks
      for (const event of out) yield { trackId, event }
    }
  }

  forget(trackId: string): void {
    this.chains.delete(trackId)
  }

  clear(): void {
    this.chains.clear()
  }
}
