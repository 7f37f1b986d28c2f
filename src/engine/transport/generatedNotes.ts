import type { EffectSlot } from '@/core/effects/catalogue'
import type { EffectEvent, EffectNoteOn } from '@/core/effects/noteEffect'
import { seedOfTurn, slotsOfTurn } from '@/core/effects/turns'
import { type Generator, generatorPortId } from '@/core/generators/generator'
import { cablePortId } from '@/core/routing/ports'
import { shapeMessage } from '@/core/routing/route'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { SourceEvent } from '../protocol'
import { type EngineNow, isMonitored } from './engineNow'
import { type GeneratedMessage, GeneratorPlayer, type RoutedEvent } from './generatorPlayer'
import type { PortSender } from './portSender'
import type { TrackPlayback } from './trackPlayback'

/**
 * What generators play on its ways: to the tracks that hear it, ahead of time with their own notes; to the cables of lanes;
 * and, when it is due, to whoever keeps it.
 */
export class GeneratedNotes {
  private generators: readonly Generator[] = []
  private readonly player = new GeneratorPlayer()
  /** Messages on their way to the take. */
  private waiting: (GeneratedMessage & { readonly timeMs: Milliseconds })[] = []
  /** What the take holds down, by stream and key: notes that end later than a stop have no end of their own there. */
  private readonly down = new Map<string, GeneratedMessage>()
  /** What each note of a generator is on the tracks it reaches. */
  private readonly guestNotes = new Map<
    EffectNoteOn,
    readonly { readonly trackId: string; readonly on: EffectNoteOn }[]
  >()

  constructor(
    private readonly now: EngineNow,
    private readonly playback: TrackPlayback,
    private readonly sender: PortSender,
    private readonly sourceSlots: (portId: string, channel: number) => readonly EffectSlot[],
    /** Gets every message as if its source had just sent it. */
    private readonly keep: (event: SourceEvent) => void,
  ) {}

  setGenerators(generators: readonly Generator[]): void {
    const playing = (list: readonly Generator[]) => JSON.stringify(list.filter((each) => each.isPlaying))
    if (this.now.timeline && playing(generators) !== playing(this.generators)) {
      const trackIds = new Set([...this.guestNotes.values()].flat().map(({ trackId }) => trackId))
      this.end(this.now.nowMs())
      for (const track of this.now.setup.tracks) if (trackIds.has(track.id)) this.playback.begin(track)
    }
    this.generators = generators
  }

  /** What is played in a window, by the track it reaches, shaped by its route. */
  window({
    pass,
    fromTicks,
    toTicks,
  }: {
    pass: number
    fromTicks: Ticks
    toTicks: Ticks
  }): Map<string, EffectEvent[]> {
    const guests = new Map<string, EffectEvent[]>()
    if (this.generators.length === 0) return guests
    const turn = this.now.turnOf(pass)
    const { messages, events } = this.player.window(
      turn === 0 ? this.generators : this.generators.map((each) => ofTurn(each, turn)),
      (portId, channel) => slotsOfTurn(this.sourceSlots(portId, channel), turn),
      this.now.context,
      fromTicks,
      toTicks,
    )
    this.send(messages, (tick) => this.now.timeline!.msAt({ pass, ticks: tick }))
    for (const routed of events) this.route(routed, guests)
    return guests
  }

  private send(messages: readonly GeneratedMessage[], msAt: (tick: Ticks) => Milliseconds): void {
    for (const message of messages) {
      const timeMs = msAt(message.tick)
      this.waiting.push({ ...message, timeMs })
      if (message.cable === null) continue
      const status = (message.velocity > 0 ? 0x90 : 0x80) | (message.channel - 1)
      const bytes = [status, message.key, message.velocity || 64]
      this.sender.add(message.portId, cablePortId(message.cable), timeMs, bytes)
    }
  }

  private route({ portId, event }: RoutedEvent, guests: Map<string, EffectEvent[]>): void {
    const give = (trackId: string, guest: EffectEvent) => {
      const known = guests.get(trackId)
      if (known) known.push(guest)
      else guests.set(trackId, [guest])
    }
    if (event.type === 'control') {
      for (const { track } of this.now.router.reachOf(portId, event.channel, null)) give(track.id, event)
      return
    }
    if (event.type === 'off') {
      for (const { trackId, on } of this.guestNotes.get(event.of) ?? []) give(trackId, { ...event, of: on })
      this.guestNotes.delete(event.of)
      return
    }
    const { channel, key, velocity } = event
    const reached: { trackId: string; on: EffectNoteOn }[] = []
    for (const { track, route } of this.now.router.reachOf(portId, channel, key)) {
      if (this.now.isRecordedOver(track)) this.playback.stepBack(track)
      const shaped = shapeMessage({ type: 'noteOn', channel, key, velocity }, route)
      if (shaped?.type !== 'noteOn' || !isMonitored(track)) continue
      const on = { ...event, key: shaped.key, velocity: shaped.velocity, channel: shaped.channel }
      reached.push({ trackId: track.id, on })
      give(track.id, on)
    }
    this.guestNotes.set(event, reached)
  }

  /** The loop turns: notes end in the take and on cables; on the tracks everything ends with the turn. */
  turn(turnMs: Milliseconds): void {
    this.send(this.player.end(this.now.scheduled.ticks).messages, () => turnMs)
    this.guestNotes.clear()
  }

  /** Ends at a moment, in the take and on cables: what was to come is taken back, what sounds ends. */
  end(atMs: Milliseconds): void {
    this.deliver(atMs)
    this.player.end(this.now.scheduled.ticks)
    this.waiting = [...this.down.values()].map((message) => ({ ...message, velocity: 0, timeMs: atMs }))
    this.deliver(atMs)
    for (const { id } of this.generators) this.sender.silence(this.now.nowMs(), generatorPortId(id))
    this.guestNotes.clear()
  }

  /** Nothing is under way. */
  clear(): void {
    this.player.end(0)
    this.waiting = []
    this.down.clear()
    this.guestNotes.clear()
  }

  /** What was played is kept, and seen, when it is due. */
  deliver(nowMs: Milliseconds): void {
    if (this.waiting.length === 0) return
    const due = this.waiting.filter((message) => message.timeMs <= nowMs).sort((a, b) => a.timeMs - b.timeMs)
    if (due.length === 0) return
    this.waiting = this.waiting.filter((message) => message.timeMs > nowMs)
    for (const message of due) {
      const { portId, channel, key, velocity, timeMs } = message
      const address = `${channel} ${key} ${portId}`
      if (velocity > 0) this.down.set(address, message)
      else this.down.delete(address)
      const status = (velocity > 0 ? 0x90 : 0x80) | (channel - 1)
      this.keep({ portId, timeMs, status, data1: key, data2: velocity || 64 })
    }
  }

  changeSourceEffects(portId: string, channel: number, slots: readonly EffectSlot[]): void {
    this.player.changeSlots(portId, channel, this.now.scheduled.ticks, slots)
  }
}

/** A generator with the throw of a turn; one that is kept stays. */
function ofTurn(generator: Generator, turn: number): Generator {
  return generator.isSeedKept ? generator : { ...generator, seed: seedOfTurn(generator.seed, turn) }
}
