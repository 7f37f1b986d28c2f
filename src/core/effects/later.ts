import type { TempoMap } from '../time/tempoMap'
import type { Milliseconds, Ticks } from '../time/units'
import type { EffectEvent, EffectNoteOn, Emit } from './noteEffect'

/**
 * Events that are due later, in order of time; of those due together, the ones that were put in first. A binary heap.
 */
export class Later {
  private readonly events: EffectEvent[] = []
  /** In which order they were put in, beside the events. */
  private readonly orders: number[] = []
  private nextOrder = 0

  get nextTicks(): Ticks {
    return this.events.length > 0 ? this.events[0]!.tick : Number.POSITIVE_INFINITY
  }

  put(event: EffectEvent): void {
    const { events, orders } = this
    const order = this.nextOrder++
    let at = events.length
    while (at > 0) {
      const parent = (at - 1) >> 1
      // One put in later is never before another of the same tick.
      if (events[parent]!.tick <= event.tick) break
      events[at] = events[parent]!
      orders[at] = orders[parent]!
      at = parent
    }
    events[at] = event
    orders[at] = order
  }

  /** Emits what is due before a position (exclusive). */
  emitBefore(toTicks: Ticks, emit: Emit): void {
    while (this.events.length > 0 && this.events[0]!.tick < toTicks) emit(this.take())
  }

  take(): EffectEvent {
    const { events, orders } = this
    const first = events[0]!
    const event = events.pop()!
    const order = orders.pop()!
    const count = events.length
    if (count === 0) return first
    let at = 0
    for (;;) {
      let child = 2 * at + 1
      if (child >= count) break
      if (child + 1 < count && this.isBefore(child + 1, child)) child++
      const least = events[child]!
      if (event.tick < least.tick || (event.tick === least.tick && order < orders[child]!)) break
      events[at] = least
      orders[at] = orders[child]!
      at = child
    }
    events[at] = event
    orders[at] = order
    return first
  }

  private isBefore(a: number, b: number): boolean {
    const first = this.events[a]!.tick
    const second = this.events[b]!.tick
    return first < second || (first === second && this.orders[a]! < this.orders[b]!)
  }
}

/** A note made of one that is held, and what else was made of it. */
interface Made {
  readonly made: EffectNoteOn
  readonly byTicks: Ticks
  readonly others: Made | undefined
}

/**
 * Notes that sound later than they were played, each by its own distance: the note-off comes as much later as the note-on.
 * A note whose end is not yet known waits for it here.
 */
export class LaterNotes {
  private readonly later = new Later()
  private readonly open = new Map<EffectNoteOn, Made>()

  /** @param byTicks how much later `made` sounds than `from` was played */
  add(from: EffectNoteOn, made: EffectNoteOn, byTicks: Ticks): void {
    this.later.put(made)
    this.open.set(from, { made, byTicks, others: this.open.get(from) })
  }

  /** The note that was played has ended: so do those made of it, each in its time. */
  end(from: EffectNoteOn, atTicks: Ticks, velocity: number): void {
    let each = this.open.get(from)
    if (!each) return
    this.open.delete(from)
    for (; each; each = each.others) {
      const tick = Math.max(each.made.tick + 1, atTicks + each.byTicks)
      this.later.put({ type: 'off', tick, velocity, of: each.made })
    }
  }

  emitBefore(toTicks: Ticks, emit: Emit): void {
    this.later.emitBefore(toTicks, emit)
  }
}

/** Ticks that a time in milliseconds takes from a position on. */
export function ticksOfMs(tempoMap: TempoMap, fromTicks: Ticks, ms: Milliseconds): Ticks {
  return tempoMap.shifted(fromTicks, ms) - fromTicks
}
