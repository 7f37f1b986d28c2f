import type { Ticks } from '../time/units'
import type { EffectEvent, EffectNoteOn, Emit } from './noteEffect'

/**
 * Events that are due later, in order of time; of those due together, the ones that were put in first. A binary heap.
 */
export class Later {
  private readonly heap: { readonly event: EffectEvent; readonly order: number }[] = []
  private nextOrder = 0

  get nextTicks(): Ticks {
    return this.heap[0]?.event.tick ?? Number.POSITIVE_INFINITY
  }

  put(event: EffectEvent): void {
    const { heap } = this
    let at = heap.length
    heap.push({ event, order: this.nextOrder++ })
    while (at > 0) {
      const parent = (at - 1) >> 1
      if (!this.isBefore(at, parent)) break
      this.swap(at, parent)
      at = parent
    }
  }

  /** Emits what is due before a position (exclusive). */
  emitBefore(toTicks: Ticks, emit: Emit): void {
    while (this.nextTicks < toTicks) emit(this.take())
  }

  take(): EffectEvent {
    const { heap } = this
    const first = heap[0]!.event
    const last = heap.pop()!
    if (heap.length > 0) {
      heap[0] = last
      let at = 0
      for (;;) {
        let least = at
        for (const child of [2 * at + 1, 2 * at + 2])
          if (child < heap.length && this.isBefore(child, least)) least = child
        if (least === at) break
        this.swap(at, least)
        at = least
      }
    }
    return first
  }

  private isBefore(a: number, b: number): boolean {
    const [first, second] = [this.heap[a]!, this.heap[b]!]
    return (
      first.event.tick < second.event.tick ||
      (first.event.tick === second.event.tick && first.order < second.order)
    )
  }

  private swap(a: number, b: number): void {
    ;[this.heap[a], this.heap[b]] = [this.heap[b]!, this.heap[a]!]
  }
}

/**
 * Notes that sound later than they were played, each by its own distance: the note-off comes as much later as the note-on.
 * A note whose end is not yet known waits for it here.
 */
export class LaterNotes {
  private readonly later = new Later()
  private readonly open = new Map<EffectNoteOn, { readonly made: EffectNoteOn; readonly byTicks: Ticks }[]>()

  /** @param byTicks how much later `made` sounds than `from` was played */
  add(from: EffectNoteOn, made: EffectNoteOn, byTicks: Ticks): void {
    this.later.put(made)
    const known = this.open.get(from)
    if (known) known.push({ made, byTicks })
    else this.open.set(from, [{ made, byTicks }])
  }

  /** The note that was played has ended: so do those made of it, each in its time. */
  end(from: EffectNoteOn, atTicks: Ticks, velocity: number): void {
    for (const { made, byTicks } of this.open.get(from) ?? [])
      this.later.put({ type: 'off', tick: Math.max(made.tick + 1, atTicks + byTicks), velocity, of: made })
    this.open.delete(from)
  }

  emitBefore(toTicks: Ticks, emit: Emit): void {
    this.later.emitBefore(toTicks, emit)
  }
}

/** Ticks that a time in milliseconds takes from a position on. */
export function ticksOfMs(
  tempoMap: { msAt(tick: Ticks): number; ticksAt(ms: number): Ticks },
  fromTicks: Ticks,
  ms: number,
): Ticks {
  return ms === 0 ? 0 : Math.max(0, Math.round(tempoMap.ticksAt(tempoMap.msAt(fromTicks) + ms) - fromTicks))
}
