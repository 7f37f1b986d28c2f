import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { activeSlots, type EffectSettings, type EffectSlot, effectOf } from './catalogue'
import type { EffectEvent, EffectNoteOn, Emit, MusicalContext, RunningEffect } from './noteEffect'
import { movedTo } from './shape/movement'
import { Untangle } from './untangle'

/** A chain that was changed while it played: from that position on it has these slots. */
export interface ChainChange {
  readonly tick: Ticks
  readonly slots: readonly EffectSlot[]
}

/** More notes than this to the quarter, after any effect, are left out: repeats of repeats multiply without end. */
export const mostNotesToTheQuarter = 1000

/** A chain that had to leave out more than this takes no more notes: it would keep the machine busy for nothing. */
export const mostLeftOut = 20_000

/** Told of every event that goes into an effect and comes out of it. */
export type ChainWatch = (slotId: string, side: 'goesIn' | 'comesOut', event: EffectEvent) => void

interface Link {
  slot: EffectSlot
  readonly running: RunningEffect
  /** Notes let through in the quarter note that is counted. */
  quarter: number
  count: number
  readonly leftOut: Set<EffectNoteOn>
  /** Takes what the effect emits. */
  readonly emit: Emit
}

/** A moving setting is laid over the one that stands still. */
function settingsAt(slot: EffectSlot, tick: Ticks): EffectSettings {
  if (slot.movements.length === 0) return slot.settings
  const moved: Record<string, EffectSettings[string]> = { ...slot.settings }
  const fields = effectOf(slot.kind).fields
  for (const [index, movement] of slot.movements.entries()) {
    const field = fields[movement.setting]
    if (field?.type !== 'number') continue
    const value = movedTo(movement, tick, slot.seed + index)
    moved[movement.setting] = Math.max(field.min, Math.min(field.max, value))
  }
  return moved
}

/**
 * Effects one after the other, at work. What goes in, in order of time, comes out in order of time; how often `advance` is
 * called in between makes no difference.
 */
export class Chain {
  private links: Link[] = []
  private readonly untangle = new Untangle()
  private changes: ChainChange[]
  /** Notes left out because there were too many. */
  leftOut = 0

  constructor(
    slots: readonly EffectSlot[],
    private readonly context: MusicalContext,
    private readonly emit: Emit,
    changes: readonly ChainChange[] = [],
    private readonly watch?: ChainWatch,
  ) {
    this.changes = [...changes].sort((a, b) => a.tick - b.tick)
    this.setSlots(slots)
  }

  /**
   * Takes other slots. Where only settings differ the effects run on with them; otherwise all begin anew.
   *
   * @returns whether they begin anew
   */
  private setSlots(slots: readonly EffectSlot[]): boolean {
    const active = activeSlots(slots)
    const runsOn =
      active.length === this.links.length &&
      active.every((slot, index) => isSameEffect(slot, this.links[index]!.slot))
    if (runsOn) for (const [index, slot] of active.entries()) this.links[index]!.slot = slot
    else this.links = active.map((slot, index) => this.begin(slot, index))
    return !runsOn
  }

  private begin(slot: EffectSlot, index: number): Link {
    const world = {
      ...this.context,
      seed: saltedSeed(slot),
      settingsAt: (tick: Ticks) => settingsAt(link.slot, tick) as never,
    }
    const link: Link = {
      slot,
      running: effectOf(slot.kind).start(world),
      quarter: Number.NEGATIVE_INFINITY,
      count: 0,
      leftOut: new Set(),
      emit: (event) => this.passLimited(link, index, event),
    }
    return link
  }

  /** No effect is at work, now or later. */
  get isPlain(): boolean {
    return this.links.length === 0 && this.changes.length === 0
  }

  /** Takes one event; its tick is not before that of the one taken last. */
  receive(event: EffectEvent): void {
    this.advance(event.tick)
    this.changeUntil(event.tick)
    this.pass(0, event)
  }

  /** Time passes: emits what is due before a position (exclusive). */
  advance(toTicks: Ticks): void {
    for (;;) {
      const change = this.changes[0]
      if (!change || change.tick >= toTicks) break
      this.advanceLinks(change.tick)
      this.changeUntil(change.tick)
    }
    this.advanceLinks(toTicks)
  }

  private changeUntil(tick: Ticks): void {
    while (this.changes.length > 0 && this.changes[0]!.tick <= tick) {
      const change = this.changes.shift()!
      this.change(change.tick, change.slots)
    }
  }

  /**
   * Sets other slots at a position. Where effects begin anew, what sounds there ends.
   *
   * @returns whether they begin anew
   */
  change(atTicks: Ticks, slots: readonly EffectSlot[]): boolean {
    const beginsAnew = this.setSlots(slots)
    if (beginsAnew) this.untangle.end(atTicks, this.emit)
    return beginsAnew
  }

  private advanceLinks(toTicks: Ticks): void {
    for (const link of this.links) link.running.advance(toTicks, link.emit)
  }

  private pass(index: number, event: EffectEvent): void {
    const link = this.links[index]
    if (!link) {
      this.untangle.pass(event, this.emit)
      return
    }
    link.running.advance(event.tick, link.emit)
    // A controller goes past the other effects, in its place in time.
    if (event.type === 'control') this.pass(index + 1, event)
    else if (event.type === 'on' && this.leftOut >= mostLeftOut) this.leftOut++
    else {
      this.watch?.(link.slot.id, 'goesIn', event)
      link.running.receive(event, link.emit)
    }
  }

  /** Hands on what an effect emitted, unless it is too much. */
  private passLimited(link: Link, index: number, event: EffectEvent): void {
    if (event.type === 'on') {
      const quarter = Math.floor(event.tick / TICKS_PER_QUARTER)
      if (quarter !== link.quarter) {
        link.quarter = quarter
        link.count = 0
      }
      if (++link.count > mostNotesToTheQuarter) {
        link.leftOut.add(event)
        this.leftOut++
        return
      }
    } else if (event.type === 'off' && link.leftOut.delete(event.of)) return
    this.watch?.(link.slot.id, 'comesOut', event)
    this.pass(index + 1, event)
  }

  /** Nothing will be played any more: what would go on for ever ends. */
  inputOver(atTicks: Ticks): void {
    this.advance(atTicks)
    for (const { running } of this.links) running.inputOver?.(atTicks)
  }

  /** Ends everything that still sounds: for a stop, a route change, a lost port. */
  end(atTicks: Ticks): void {
    this.untangle.end(atTicks, this.emit)
  }
}

function isSameEffect(a: EffectSlot, b: EffectSlot): boolean {
  return a.id === b.id && a.kind === b.kind && a.seed === b.seed
}

/** Effects of different kinds with the same seed are not to throw the same dice. */
function saltedSeed(slot: EffectSlot): number {
  let salt = slot.seed
  for (const letter of slot.kind) salt = (Math.imul(salt, 31) + letter.charCodeAt(0)) >>> 0
  return salt
}
