import type { Note } from '../event/note'
import { firstIndex } from '../time/firstIndex'
import type { Ticks } from '../time/units'
import type { EffectSlot } from './catalogue'
import { Chain, type ChainChange } from './chain'
import type { EffectEvent, EffectNoteOn, Emit, MusicalContext } from './noteEffect'

const eventsOfNotes = new WeakMap<readonly Note[], readonly EffectEvent[]>()

/** Notes as the events an effect takes, in order: at one tick offs before ons, lower keys first. */
export function noteEvents(notes: readonly Note[]): readonly EffectEvent[] {
  const known = eventsOfNotes.get(notes)
  if (known) return known
  const events: EffectEvent[] = []
  for (const note of notes) {
    const on: EffectNoteOn = {
      type: 'on',
      tick: note.onsetTicks,
      key: note.key,
      velocity: note.velocity,
      channel: note.channel,
      sourceId: note.id,
    }
    events.push(on, {
      type: 'off',
      tick: note.onsetTicks + note.durationTicks,
      velocity: note.releaseVelocity,
      of: on,
    })
  }
  events.sort(inOrder)
  eventsOfNotes.set(notes, events)
  return events
}

export function inOrder(a: EffectEvent, b: EffectEvent): number {
  return a.tick - b.tick || rankOf(a) - rankOf(b) || keyOf(a) - keyOf(b)
}

const rankOf = (event: EffectEvent) => (event.type === 'off' ? 0 : event.type === 'control' ? 1 : 2)
const keyOf = (event: EffectEvent) =>
  event.type === 'on' ? event.key : event.type === 'off' ? event.of.key : event.number

/** The chain of a track or source: its slots, and what was changed while it played. */
export interface ChainPlan {
  readonly slots: readonly EffectSlot[]
  readonly changes: readonly ChainChange[]
}

/**
 * A finished list of events on its way through a chain, up to any position at a time. Playing and printing both run this,
 * so that they cannot differ.
 */
export class ChainRun {
  private readonly chain: Chain
  private next = 0
  private isOver = false
  private hasGuests = false
  private readonly overTicks: Ticks

  constructor(
    private readonly events: readonly EffectEvent[],
    plan: ChainPlan,
    context: MusicalContext,
    emit: Emit,
  ) {
    this.chain = new Chain(plan.slots, context, emit, plan.changes)
    const last = events.at(-1)?.tick ?? 0
    // What goes on after the keys are up goes on to the end of the bar.
    const bar = context.meterMap.measureAt(Math.max(0, last - 1))
    this.overTicks = bar.startTicks + bar.lengthTicks
  }

  get leftOut(): number {
    return this.chain.leftOut
  }

  /**
   * Goes to a position without a chain to be brought there: what came before makes no difference then.
   *
   * @returns false where effects have to run up to there
   */
  skipTo(tick: Ticks): boolean {
    if (!this.chain.isPlain) return false
    const { events } = this
    this.next = firstIndex(events.length, (index) => events[index]!.tick >= tick, this.next)
    return true
  }

  /**
   * Emits everything before a position (exclusive).
   *
   * @param guests events from elsewhere that pass the chain too, in order and before the position
   */
  advance(toTicks: Ticks, guests: readonly EffectEvent[] = []): void {
    this.hasGuests ||= guests.length > 0
    let guest = 0
    for (;;) {
      const own = this.events[this.next]
      const other = guests[guest]
      const isOwn = own !== undefined && own.tick < toTicks && (!other || inOrder(own, other) <= 0)
      if (isOwn) {
        this.next++
        this.chain.receive(own)
      } else if (other) {
        guest++
        this.chain.receive(other)
      } else break
    }
    if (!this.isOver && !this.hasGuests && toTicks > this.overTicks) {
      this.isOver = true
      this.chain.inputOver(this.overTicks)
    }
    this.chain.advance(toTicks)
  }

  change(atTicks: Ticks, slots: readonly EffectSlot[]): void {
    this.chain.change(atTicks, slots)
  }

  end(atTicks: Ticks): void {
    this.chain.end(atTicks)
  }
}
