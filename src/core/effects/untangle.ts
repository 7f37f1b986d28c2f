import type { Ticks } from '../time/units'
import type { EffectEvent, EffectNoteOn, Emit } from './noteEffect'

/**
 * Makes what leaves a chain fit for a keyboard: a key of a channel never sounds twice at once. A note that begins where the
 * same key still sounds ends the earlier one first; two that begin together are one.
 */
export class Untangle {
  private readonly sounding = new Map<number, EffectNoteOn>()

  pass(event: EffectEvent, emit: Emit): void {
    if (event.type === 'control') {
      emit(event)
      return
    }
    const on = event.type === 'on' ? event : event.of
    const address = on.channel * 128 + on.key
    const earlier = this.sounding.get(address)
    if (event.type === 'on') {
      if (earlier?.tick === event.tick) return
      if (earlier) emit({ type: 'off', tick: event.tick, velocity: 64, of: earlier })
      this.sounding.set(address, event)
      emit(event)
    } else if (earlier === event.of) {
      this.sounding.delete(address)
      emit(event)
    }
  }

  /** Ends everything that still sounds. */
  end(atTicks: Ticks, emit: Emit): void {
    for (const of of this.sounding.values())
      emit({ type: 'off', tick: Math.max(atTicks, of.tick + 1), velocity: 64, of })
    this.sounding.clear()
  }
}
