import type { EffectSlot } from '@/core/effects/catalogue'
import { Chain } from '@/core/effects/chain'
import { inOrder } from '@/core/effects/chainRun'
import type { EffectEvent, EffectNoteOn, MusicalContext } from '@/core/effects/noteEffect'
import { type Generator, generatorPortId, notesBetween } from '@/core/generators/generator'
import type { Ticks } from '@/core/time/units'

/** One message of a generator, before any effect: what a take keeps. */
export interface GeneratedMessage {
  readonly portId: string
  readonly channel: number
  readonly tick: Ticks
  readonly key: number
  /** 0: the note ends. */
  readonly velocity: number
  /** Cable that its lane is sent to as well. */
  readonly cable: string | null
}

/** An event of a generator as it reaches the routes. */
export interface RoutedEvent {
  readonly portId: string
  readonly event: EffectEvent
}

/** Has the generators play window by window, each of their streams through the effects of its source. */
export class GeneratorPlayer {
  private readonly open = new Map<
    EffectNoteOn,
    { readonly portId: string; readonly offTicks: Ticks; readonly cable: string | null }
  >()
  private readonly chains = new Map<string, Chain>()
  private out: RoutedEvent[] = []
  private sourceId = -1

  /** What begins and ends in a stretch of the piece. */
  window(
    generators: readonly Generator[],
    slotsOf: (portId: string, channel: number) => readonly EffectSlot[],
    context: MusicalContext,
    fromTicks: Ticks,
    toTicks: Ticks,
  ): { readonly messages: GeneratedMessage[]; readonly events: RoutedEvent[] } {
    const incoming: {
      readonly portId: string
      readonly event: EffectNoteOn | Extract<EffectEvent, { type: 'off' }>
      readonly cable: string | null
    }[] = []
    for (const generator of generators) {
      if (!generator.isPlaying) continue
      const portId = generatorPortId(generator.id)
      for (const note of notesBetween(generator, context, fromTicks, toTicks)) {
        const { key, velocity, channel } = note
        const on: EffectNoteOn = {
          type: 'on',
          tick: note.onsetTicks,
          key,
          velocity,
          channel,
          sourceId: this.sourceId--,
        }
        const cable = note.cable ?? null
        this.open.set(on, { portId, offTicks: note.onsetTicks + note.durationTicks, cable })
        incoming.push({ portId, event: on, cable })
      }
    }
    for (const [on, { portId, offTicks, cable }] of this.open) {
      if (offTicks >= toTicks) continue
      this.open.delete(on)
      incoming.push({ portId, event: { type: 'off', tick: offTicks, velocity: 64, of: on }, cable })
    }
    incoming.sort((a, b) => inOrder(a.event, b.event))
    for (const { portId, event } of incoming) {
      const { channel } = event.type === 'on' ? event : event.of
      this.chainOf(portId, channel, slotsOf, context).receive(event)
    }
    for (const chain of this.chains.values()) chain.advance(toTicks)
    const events = this.out.sort((a, b) => inOrder(a.event, b.event))
    this.out = []
    return { messages: incoming.map(messageOf), events }
  }

  /** Ends what sounds, at the turn of a loop or at a stop. */
  end(atTicks: Ticks): { readonly messages: GeneratedMessage[]; readonly events: RoutedEvent[] } {
    const messages = [...this.open].map(([on, { portId, cable }]) =>
      messageOf({ portId, cable, event: { type: 'off', tick: atTicks, velocity: 64, of: on } }),
    )
    this.open.clear()
    for (const chain of this.chains.values()) chain.end(atTicks)
    this.chains.clear()
    const events = this.out
    this.out = []
    return { messages, events }
  }

  changeSlots(portId: string, channel: number, atTicks: Ticks, slots: readonly EffectSlot[]): void {
    this.chains.get(`${channel} ${portId}`)?.change(atTicks, slots)
  }

  private chainOf(
    portId: string,
    channel: number,
    slotsOf: (portId: string, channel: number) => readonly EffectSlot[],
    context: MusicalContext,
  ): Chain {
    const address = `${channel} ${portId}`
    let chain = this.chains.get(address)
    if (!chain) {
      chain = new Chain(slotsOf(portId, channel), context, (event) => this.out.push({ portId, event }))
      this.chains.set(address, chain)
    }
    return chain
  }
}

function messageOf({
  portId,
  event,
  cable,
}: {
  portId: string
  event: EffectNoteOn | Extract<EffectEvent, { type: 'off' }>
  cable: string | null
}): GeneratedMessage {
  const on = event.type === 'on' ? event : event.of
  return {
    portId,
    channel: on.channel,
    tick: event.tick,
    key: on.key,
    velocity: event.type === 'on' ? on.velocity : 0,
    cable,
  }
}
