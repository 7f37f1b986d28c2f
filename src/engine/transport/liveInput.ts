import { activeSlots, type EffectSlot } from '@/core/effects/catalogue'
import type { EffectEvent, EffectNoteOn } from '@/core/effects/noteEffect'
import { type ChannelMessage, channelMessageBytes } from '@/core/midi/message'
import { streamKey } from '@/core/routing/address'
import { type Reach, shapeMessage } from '@/core/routing/route'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { EngineSetup, EngineTrack, LiveFlow, SourceEvent } from '../protocol'
import { type EngineNow, isMonitored } from './engineNow'
import { HeldControls } from './heldControls'
import { LiveChains } from './liveChains'
import type { Outlet } from './outlet'
import type { TrackPlayback } from './trackPlayback'

type NoteOn = Extract<ChannelMessage, { type: 'noteOn' }>

/** What effects make of a live note later than at once sounds this much after its moment, all alike. */
const laterByMs = 12

/** What a key that is down sounds on a track. */
interface Sounded {
  readonly trackId: string
  readonly key: number
  readonly channel: number
  /** Through the effects the track had then; otherwise straight. */
  readonly isThroughEffects: boolean
}

/** A key that is down. */
interface HeldKey {
  readonly event: SourceEvent
  /** Null: it went through effects of its source, and what those made of it is on the tracks. */
  readonly sounded: readonly Sounded[] | null
}

/** Notes that are played right now: on their way through the effects of their source, the routes and the effects of tracks. */
export class LiveInput {
  /** Keys that sources hold down, by port, channel and key. */
  private readonly heldKeys = new Map<string, HeldKey>()
  /** Pedals and bends that sources hold, by port and channel. */
  private readonly heldControls = new Map<
    string,
    { readonly portId: string; readonly controls: HeldControls }
  >()
  /** What notes that came out of a source's effects sound on the tracks. */
  private readonly routed = new Map<EffectNoteOn, readonly Sounded[]>()
  private readonly chains: LiveChains
  private readonly freeStartMs: Milliseconds

  constructor(
    private readonly now: EngineNow,
    private readonly outlet: Outlet,
    private readonly playback: TrackPlayback,
  ) {
    this.freeStartMs = now.nowMs()
    this.chains = new LiveChains(now.context, (id, event, isAtOnce) => this.comeOut(id, event, isAtOnce))
  }

  get heldEvents(): SourceEvent[] {
    return [...this.heldKeys.values()].map((held) => held.event)
  }

  /** What sources hold away from rest, as they moved it there. */
  get heldControlEvents(): SourceEvent[] {
    return [...this.heldControls.values()].flatMap(({ portId, controls }) =>
      controls.list().map(({ movedBy: [status, data1, data2], movedAtMs: timeMs }) => ({
        portId,
        timeMs,
        status,
        data1,
        data2,
      })),
    )
  }

  /** What puts the controllers of ports back to rest; they are from then on. */
  letControlsGo(isOf: (portId: string) => boolean, timeMs: Milliseconds): SourceEvent[] {
    return [...this.heldControls.values()]
      .filter(({ portId }) => isOf(portId))
      .flatMap(({ portId, controls }) =>
        controls
          .putBack()
          .map(({ bytes: [status, data1, data2] }) => ({ portId, timeMs, status, data1, data2 })),
      )
  }

  /** The tempi or meters have changed: effects begin anew. Whatever sounded through them must have been silenced. */
  setContext(): void {
    this.chains.setContext(this.now.context)
  }

  get isThroughEffects(): boolean {
    return !this.chains.isEmpty
  }

  note(
    event: SourceEvent,
    message: Extract<ChannelMessage, { type: 'noteOn' | 'noteOff' }>,
    reached: readonly Reach<EngineTrack>[],
  ): void {
    const address = `${streamKey({ portId: event.portId, channel: message.channel })} ${message.key}`
    // A key is released where it was pressed, also when the route has changed in between.
    const held = this.heldKeys.get(address)
    if (held) this.lift(held, event.timeMs)
    this.heldKeys.delete(address)
    if (message.type === 'noteOff') return
    const slots = this.sourceSlots(event.portId, message.channel)
    if (activeSlots(slots).length === 0) {
      this.heldKeys.set(address, { event, sounded: this.press(reached, message, event.timeMs) })
      return
    }
    this.heldKeys.set(address, { event, sounded: null })
    const id = sourceChainId(event.portId, message.channel)
    this.chains.play(id, slots, message, this.ticksAt(event.timeMs))
  }

  /** A pedal, bend or pressure: straight to the tracks. */
  controller(
    { portId, status, data1, data2, timeMs }: SourceEvent,
    message: ChannelMessage,
    reached: readonly Reach<EngineTrack>[],
  ): void {
    const address = `${message.channel} ${portId}`
    let held = this.heldControls.get(address)
    if (!held) {
      held = { portId, controls: new HeldControls() }
      this.heldControls.set(address, held)
    }
    held.controls.follow(status, data1, data2, timeMs)
    for (const { track, route } of reached) {
      const shaped = shapeMessage(message, route)
      if (!shaped || shaped.type === 'program' || !isMonitored(track)) continue
      const [kind, first, second] = channelMessageBytes(shaped)
      this.outlet.sound(track, null, kind! & 0xf0, first!, second ?? 0)
    }
  }

  /** A note goes down on every track it reaches. */
  private press(
    reached: readonly Reach<EngineTrack>[],
    message: NoteOn,
    timeMs: Milliseconds,
  ): readonly Sounded[] {
    const sounded: Sounded[] = []
    for (const { track, route } of reached) {
      const shaped = shapeMessage(message, route)
      if (shaped?.type !== 'noteOn') continue
      if (this.now.isRecordedOver(track)) this.playback.stepBack(track)
      if (!isMonitored(track) || !track.isAudible) continue
      const { key, channel, velocity } = shaped
      const isThroughEffects = activeSlots(track.slots).length > 0
      sounded.push({ trackId: track.id, key, channel, isThroughEffects })
      if (isThroughEffects)
        this.chains.play(track.id, track.slots, { key, velocity, channel }, this.ticksAt(timeMs))
      else this.outlet.sound(track, this.momentOf(timeMs), 0x90, key, velocity, channel)
    }
    return sounded
  }

  private lift(held: HeldKey, timeMs: Milliseconds): void {
    if (held.sounded) {
      for (const sounded of held.sounded) this.end(sounded, timeMs)
      return
    }
    const { portId, status, data1 } = held.event
    const channel = (status & 0x0f) + 1
    const id = sourceChainId(portId, channel)
    this.chains.release(id, { key: data1, channel }, this.ticksAt(timeMs))
  }

  private end({ trackId, key, channel, isThroughEffects }: Sounded, timeMs: Milliseconds): void {
    const track = this.now.trackOf(trackId)
    if (!track) return
    if (isThroughEffects) this.chains.release(trackId, { key, channel }, this.ticksAt(timeMs))
    else this.outlet.sound(track, this.momentOf(timeMs), 0x80, key, 0, channel)
  }

  /** What is meant for later is handed over with its moment; the rest goes at once. */
  private momentOf(timeMs: Milliseconds): Milliseconds | null {
    return timeMs > this.now.nowMs() + 1 ? timeMs : null
  }

  /** What effects make of live notes: those of a source go on to the tracks, those of a track sound. */
  private comeOut(id: string, event: EffectEvent, isAtOnce: boolean): void {
    const timeMs = this.msAt(event.tick) + (isAtOnce ? 0 : laterByMs)
    const chain = chainOfId(id)
    if ('trackId' in chain) {
      const track = this.now.trackOf(id)
      if (track && (event.type !== 'on' || track.isAudible))
        this.outlet.event(track, isAtOnce ? null : timeMs, event)
    } else if (event.type === 'control') {
      for (const { track } of this.now.router.reachOf(chain.portId, event.channel, null))
        if (isMonitored(track)) this.outlet.event(track, this.momentOf(timeMs), event)
    } else if (event.type === 'on') {
      const { key, velocity, channel } = event
      const reached = this.now.router.reachOf(chain.portId, channel, key)
      this.routed.set(event, this.press(reached, { type: 'noteOn', key, velocity, channel }, timeMs))
    } else {
      for (const sounded of this.routed.get(event.of) ?? []) this.end(sounded, timeMs)
      this.routed.delete(event.of)
    }
  }

  /** What is due of effects up to now. */
  advance(nowMs: Milliseconds): void {
    this.chains.advance(Math.floor(this.ticksAt(nowMs)))
  }

  /** What goes through the effects right now; null where that has not changed since it was asked last. */
  flows(): LiveFlow[] | null {
    const flows = this.chains.flows()
    if (flows === null) return null
    return flows.map(({ id, flow }) => ({ ...flow, chain: chainOfId(id) }))
  }

  /** The effects at work between a source and the tracks. */
  sourceSlots(portId: string, channel: number): readonly EffectSlot[] {
    const { sourceChains } = this.now.setup
    const chain =
      sourceChains.find((each) => each.portId === portId && each.channel === channel) ??
      sourceChains.find((each) => each.portId === portId && each.channel === null)
    return chain?.slots ?? noSlots
  }

  changeEffects(track: EngineTrack): void {
    this.chains.change(track.id, track.slots)
  }

  changeSourceEffects({ portId, slots }: EngineSetup['sourceChains'][number], channel: number): void {
    this.chains.change(sourceChainId(portId, channel), slots)
  }

  /** Ends what live notes sound on a track, as when its routes change. */
  releaseOn(track: EngineTrack): void {
    const nowMs = this.now.nowMs()
    const sounded = [...this.heldKeys.values()].flatMap((held) => held.sounded ?? [])
    for (const each of [...sounded, ...[...this.routed.values()].flat()])
      if (each.trackId === track.id) this.end(each, nowMs)
  }

  forget(track: EngineTrack): void {
    this.chains.forget(track.id)
  }

  /** Everything was silenced: nothing sounds through effects any more. */
  letGo(): void {
    this.chains.clear()
    this.routed.clear()
  }

  /** Live effects run on the piece's time while the transport runs, else on a free clock at the first tempo. */
  private ticksAt(timeMs: Milliseconds): Ticks {
    return this.now.timeline
      ? this.now.timeline.runningTicksAt(timeMs)
      : this.now.context.tempoMap.ticksAt(timeMs - this.freeStartMs)
  }

  private msAt(tick: Ticks): Milliseconds {
    return this.now.timeline
      ? this.now.timeline.msAtRunning(tick)
      : this.freeStartMs + this.now.context.tempoMap.msAt(tick)
  }
}

const noSlots: readonly EffectSlot[] = []

const sourcePrefix = 'source '

function sourceChainId(portId: string, channel: number): string {
  return `${sourcePrefix}${channel} ${portId}`
}

/** @returns the address of a source whose chain it is, or the track */
function chainOfId(id: string): LiveFlow['chain'] {
  if (!id.startsWith(sourcePrefix)) return { trackId: id }
  const rest = id.slice(sourcePrefix.length)
  const space = rest.indexOf(' ')
  return { channel: Number(rest.slice(0, space)), portId: rest.slice(space + 1) }
}
