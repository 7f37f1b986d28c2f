import { type ChainState, processChain } from '@/core/effects/chain'
import type { EffectEvent } from '@/core/effects/noteEffect'
import { byTickOffsFirst, noteEvents } from '@/core/effects/print'
import type { ControllerEvent, Note } from '@/core/event/note'
import { unpackNotes } from '@/core/event/noteColumns'
import { controllerMessage } from '@/core/formats/projectToMidi'
import { channelMessageBytes, parseChannelMessage } from '@/core/midi/message'
import { Router } from '@/core/routing/route'
import { beatUnitTicks, MeterMap } from '@/core/time/meterMap'
import { TempoMap } from '@/core/time/tempoMap'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { ClockSample } from '../clock'
import type {
  Activity,
  EngineSetup,
  EngineTrack,
  FromEngine,
  SourceEvent,
  ToEngine,
  TransportState,
} from '../protocol'
import { packCommands, type SynthMessage, type TimedCommand } from '../synth/commands'
import { Capture, type TakeJournal } from './capture'

/** What the engine reaches the world through; in tests, plain objects. */
export interface EngineWorld {
  nowMs(): Milliseconds
  toSynth(message: SynthMessage): void
  toWindow(message: FromEngine): void
  readonly journal: TakeJournal
}

/** How far ahead of time notes are handed to the synthesiser. */
const lookAheadMs = 180
/** Time between a start command and the first sound: enough to hand over the first notes. */
const leadMs = 120
/** A live effect works in windows of one tick of the engine; its notes sound this much later than the clock, all alike. */
const liveEffectDelayMs = 12
const activityEveryMs = 33

interface TrackContent {
  readonly notes: readonly Note[]
  readonly events: readonly EffectEvent[]
  readonly controllers: readonly ControllerEvent[]
}

interface TrackPlayback {
  eventIndex: number
  controllerIndex: number
  chain: ChainState
  /** Notes handed over whose end is not yet: by source note and key. */
  readonly open: Map<string, { key: number; count: number }>
}

interface LiveChain {
  chain: ChainState
  processedTicks: Ticks
  pending: EffectEvent[]
  readonly heldIds: Map<number, number[]>
}

const emptyContent: TrackContent = { notes: [], events: [], controllers: [] }

/**
 * The running heart: one clock, the transport, routing, live effects, capture. It owns no timer and no port, so that it
 * runs the same in its worker and in tests; `tick` is called every few milliseconds.
 */
export class Engine {
  private setup: EngineSetup = {
    tracks: [],
    tempos: [],
    meters: [],
    countInBars: 1,
    isClickOn: true,
    clickSynthChannel: 0,
  }
  private tempoMap = new TempoMap([])
  private meterMap = new MeterMap([])
  private router = new Router<EngineTrack>([])
  private readonly contents = new Map<string, TrackContent>()
  private clock: ClockSample | null = null
  private transport: TransportState = { state: 'stopped', ticks: 0 }
  private untilTicks: Ticks | null = null
  private scheduledTicks: Ticks = 0
  private playback = new Map<string, TrackPlayback>()
  private readonly live = new Map<string, LiveChain>()
  private readonly capture: Capture
  private activity: Activity[] = []
  private lastActivityMs = 0
  private reportedNotes = 0
  private nextSourceId = 1
  private commands: TimedCommand[] = []
  /** Keys that live sources hold down, by port, channel and key, with the tracks that sound them. */
  private readonly heldKeys = new Map<string, { event: SourceEvent; trackIds: string[] }>()
  private readonly freeStartMs: Milliseconds

  constructor(private readonly world: EngineWorld) {
    this.freeStartMs = world.nowMs()
    this.capture = new Capture(world.journal, (message) => world.toWindow(message))
  }

  receive(message: ToEngine): void {
    switch (message.type) {
      case 'clock':
        this.clock = message.sample
        break
      case 'setup':
        this.applySetup(message.setup)
        break
      case 'trackContent':
        this.applyContent(message.trackId, unpackNotes(message.notes), message.controllers)
        break
      case 'play':
        this.start('playing', message.fromTicks, message.untilTicks)
        break
      case 'record':
        this.record(message.fromTicks, message.projectId, message.takeSerial)
        break
      case 'stop':
        this.stop()
        break
      case 'input':
        for (const event of message.events) this.input(event)
        break
      case 'portLost':
        this.releaseHeld((event) => event.portId === message.portId)
        break
      case 'audition':
        this.audition(message.trackId, message.key, message.velocity)
        break
      case 'keepListened':
        this.capture.keepListened(message.projectId, message.takeSerial)
        break
      case 'forgetListened':
        this.capture.forgetListened()
        this.reportActivity(this.world.nowMs())
        break
      case 'panic':
        this.panic()
        break
      case 'connectSynth':
        break
    }
    this.flushCommands()
  }

  /** Hands over what is due, works the live effects, reports and journals. */
  tick(): void {
    const nowMs = this.world.nowMs()
    this.advancePlayback(nowMs)
    this.advanceLive(nowMs)
    this.flushCommands()
    if (nowMs - this.lastActivityMs >= activityEveryMs) this.reportActivity(nowMs)
    this.capture.tick(nowMs)
  }

  private applySetup(setup: EngineSetup): void {
    const before = this.setup
    this.setup = setup
    if (JSON.stringify([before.tempos, before.meters]) !== JSON.stringify([setup.tempos, setup.meters])) {
      const positionTicks = this.positionTicks(this.world.nowMs())
      this.tempoMap = new TempoMap(setup.tempos)
      this.meterMap = new MeterMap(setup.meters)
      if (this.transport.state === 'playing')
        this.start('playing', Math.max(0, positionTicks), this.untilTicks)
    }
    this.router = new Router(setup.tracks)
    for (const old of before.tracks) {
      const track = setup.tracks.find((candidate) => candidate.id === old.id)
      if (!track) this.forgetTrack(old)
      else {
        const inputChanged = JSON.stringify(old.input) !== JSON.stringify(track.input)
        if (inputChanged) this.releaseHeldOn(old)
        if (old.isAudible && !track.isAudible) this.silence(track)
        if (JSON.stringify(old.effects) !== JSON.stringify(track.effects)) this.resetChains(old, track)
      }
    }
  }

  private forgetTrack(track: EngineTrack): void {
    this.releaseHeldOn(track)
    this.silence(track)
    this.contents.delete(track.id)
    this.playback.delete(track.id)
    this.live.delete(track.id)
  }

  private resetChains(old: EngineTrack, track: EngineTrack): void {
    this.silence(old)
    this.live.delete(old.id)
    const playback = this.playback.get(track.id)
    if (playback) this.rewind(track, this.scheduledTicks)
  }

  private applyContent(
    trackId: string,
    notes: readonly Note[],
    controllers: readonly ControllerEvent[],
  ): void {
    this.contents.set(trackId, {
      notes,
      events: noteEvents(notes),
      controllers: [...controllers].sort((a, b) => a.tick - b.tick),
    })
    const track = this.setup.tracks.find((candidate) => candidate.id === trackId)
    if (!track || this.transport.state === 'stopped') return
    this.silence(track)
    this.rewind(track, this.scheduledTicks)
  }

  private start(state: 'playing' | 'recording', fromTicks: Ticks, untilTicks: Ticks | null): void {
    this.silenceAll()
    const nowMs = this.world.nowMs()
    const countInMs = state === 'recording' ? this.countInMs(fromTicks) : 0
    this.transport = { state, fromTicks, startedAtMs: nowMs + leadMs + countInMs }
    this.untilTicks = untilTicks
    this.scheduledTicks = fromTicks
    this.playback = new Map()
    for (const track of this.setup.tracks) this.rewind(track, fromTicks)
    if (countInMs > 0) this.scheduleCountIn(fromTicks, nowMs + leadMs)
    this.world.toWindow({ type: 'transport', transport: this.transport })
  }

  private record(fromTicks: Ticks, projectId: string, takeSerial: number): void {
    this.start('recording', fromTicks, null)
    if (this.transport.state !== 'recording') return
    const take = { projectId, takeSerial, startTicks: fromTicks, anchorMs: this.transport.startedAtMs }
    this.capture.begin(take, this.world.nowMs())
    // Keys that are already down when recording begins belong to the take with their full length.
    for (const { event } of this.heldKeys.values()) this.capture.keep(event)
  }

  private stop(): void {
    const nowMs = this.world.nowMs()
    const ticks = Math.max(0, Math.round(this.positionTicks(nowMs)))
    this.silenceAll()
    this.transport = { state: 'stopped', ticks }
    this.world.toWindow({ type: 'transport', transport: this.transport })
    this.capture.finish(nowMs)
  }

  private countInMs(fromTicks: Ticks): Milliseconds {
    if (this.setup.countInBars === 0) return 0
    const bar = this.meterMap.measureAt(fromTicks)
    return (
      (this.tempoMap.msAt(fromTicks + bar.lengthTicks) - this.tempoMap.msAt(fromTicks)) *
      this.setup.countInBars
    )
  }

  private scheduleCountIn(fromTicks: Ticks, beginMs: Milliseconds): void {
    const bar = this.meterMap.measureAt(fromTicks)
    const beat = beatUnitTicks(bar)
    const beatMs = this.tempoMap.msAt(fromTicks + beat) - this.tempoMap.msAt(fromTicks)
    const beats = Math.round(bar.lengthTicks / beat) * this.setup.countInBars
    for (let index = 0; index < beats; index++)
      this.click(beginMs + index * beatMs, index % Math.round(bar.lengthTicks / beat) === 0)
  }

  private click(atMs: Milliseconds, isAccent: boolean): void {
    const at = this.audioSeconds(atMs)
    if (at === null) return
    const key = isAccent ? 76 : 77
    this.commands.push({
      atSeconds: at,
      synthChannel: this.setup.clickSynthChannel,
      status: 0x90,
      data1: key,
      data2: isAccent ? 110 : 80,
    })
    this.commands.push({
      atSeconds: at + 0.05,
      synthChannel: this.setup.clickSynthChannel,
      status: 0x80,
      data1: key,
      data2: 0,
    })
  }

  /** Puts a track's reading place at a position; controllers before it are chased, so that the sound is right from there. */
  private rewind(track: EngineTrack, fromTicks: Ticks): void {
    const content = this.contents.get(track.id) ?? emptyContent
    const latest = new Map<string, ControllerEvent>()
    let controllerIndex = 0
    for (; controllerIndex < content.controllers.length; controllerIndex++) {
      const event = content.controllers[controllerIndex]!
      if (event.tick >= fromTicks) break
      latest.set(`${event.kind} ${event.number}`, event)
    }
    for (const event of latest.values()) this.sendController(track, event, 0)
    this.playback.set(track.id, {
      eventIndex: lowerBound(content.events, fromTicks),
      controllerIndex,
      chain: {},
      open: new Map(),
    })
  }

  private advancePlayback(nowMs: Milliseconds): void {
    if (this.transport.state === 'stopped') return
    const horizonTicks = Math.floor(this.ticksAtMs(nowMs + lookAheadMs))
    const from = this.scheduledTicks
    let to = Math.max(from, horizonTicks)
    if (this.untilTicks !== null) to = Math.min(to, this.untilTicks)
    if (to > from) {
      for (const track of this.setup.tracks) this.scheduleTrack(track, from, to)
      if (this.setup.isClickOn && this.transport.state === 'recording') this.scheduleClick(from, to)
      this.scheduledTicks = to
    }
    if (
      this.untilTicks !== null &&
      this.transport.state === 'playing' &&
      this.ticksAtMs(nowMs) >= this.untilTicks
    ) {
      this.stop()
      this.transport = { state: 'stopped', ticks: 0 }
      this.world.toWindow({ type: 'transport', transport: this.transport })
    }
  }

  private scheduleClick(from: Ticks, to: Ticks): void {
    let measure = this.meterMap.measureAt(from)
    while (measure.startTicks < to) {
      const beat = beatUnitTicks(measure)
      for (let at = 0; at < measure.lengthTicks; at += beat) {
        const tick = measure.startTicks + at
        if (tick >= from && tick < to) this.click(this.msAtTicks(tick), at === 0)
      }
      measure = this.meterMap.measureAt(measure.startTicks + measure.lengthTicks)
    }
  }

  private scheduleTrack(track: EngineTrack, from: Ticks, to: Ticks): void {
    const content = this.contents.get(track.id)
    const playback = this.playback.get(track.id)
    if (!content || !playback) return
    const first = playback.eventIndex
    let last = first
    while (last < content.events.length && content.events[last]!.tick < to) last++
    playback.eventIndex = last
    const window = { fromTicks: from, toTicks: to, events: content.events.slice(first, last) }
    const result = processChain(track.effects, window, playback.chain)
    playback.chain = result.state
    while (
      playback.controllerIndex < content.controllers.length &&
      content.controllers[playback.controllerIndex]!.tick < to
    ) {
      const event = content.controllers[playback.controllerIndex++]!
      this.sendController(track, event, this.audioSeconds(this.msAtTicks(event.tick)) ?? 0)
    }
    for (const event of result.out) this.scheduleEvent(track, playback, event, this.msAtTicks(event.tick))
  }

  /** A note-on is handed over only when the track is heard; a note-off only when its note-on was. */
  private scheduleEvent(
    track: EngineTrack,
    playback: TrackPlayback,
    event: EffectEvent,
    atMs: Milliseconds,
  ): void {
    const at = this.audioSeconds(atMs)
    if (at === null) return
    const address = `${event.sourceId}:${event.key}`
    const open = playback.open.get(address)
    if (event.type === 'on') {
      if (!track.isAudible) return
      playback.open.set(address, { key: event.key, count: (open?.count ?? 0) + 1 })
      this.commands.push({
        atSeconds: at,
        synthChannel: track.synthChannel,
        status: 0x90,
        data1: event.key,
        data2: event.velocity,
      })
    } else if (open) {
      if (open.count <= 1) playback.open.delete(address)
      else playback.open.set(address, { ...open, count: open.count - 1 })
      this.commands.push({
        atSeconds: at,
        synthChannel: track.synthChannel,
        status: 0x80,
        data1: event.key,
        data2: 64,
      })
    }
  }

  private sendController(track: EngineTrack, event: ControllerEvent, atSeconds: number): void {
    if (event.kind === 'program') return
    const [status, data1, data2] = channelMessageBytes(controllerMessage(event, 1))
    this.commands.push({
      atSeconds,
      synthChannel: track.synthChannel,
      status: status!,
      data1: data1!,
      data2: data2 ?? 0,
    })
  }

  /** One event of a source: kept, routed, made to sound at once. */
  private input(event: SourceEvent): void {
    const message = parseChannelMessage(event.status, event.data1, event.data2)
    if (!message) return
    this.capture.keep(event)
    const tracks = this.router.listenersOf(event.portId, message.channel)
    const heldAddress = `${event.portId} ${message.channel} ${event.data1}`
    if (message.type === 'noteOn' || message.type === 'noteOff') {
      const isOn = message.type === 'noteOn'
      const held = this.heldKeys.get(heldAddress)
      if (isOn) this.heldKeys.set(heldAddress, { event, trackIds: tracks.map((track) => track.id) })
      else this.heldKeys.delete(heldAddress)
      this.activity.push({
        portId: event.portId,
        channel: message.channel,
        key: message.key,
        velocity: isOn ? message.velocity : 0,
        isOn,
        timeMs: event.timeMs,
        ticks: this.transport.state === 'recording' ? Math.round(this.ticksAtMs(event.timeMs)) : null,
        trackIds: tracks.map((track) => track.id),
      })
      // A key is released where it was pressed, also when the route has changed in between.
      const targets =
        isOn || !held ? tracks : this.setup.tracks.filter((track) => held.trackIds.includes(track.id))
      for (const track of targets) this.soundLive(track, event, message.key, isOn ? message.velocity : 0)
    } else if (message.type !== 'program') {
      for (const track of tracks)
        this.commands.push({
          atSeconds: 0,
          synthChannel: track.synthChannel,
          status: event.status & 0xf0,
          data1: event.data1,
          data2: event.data2,
        })
    }
  }

  private soundLive(track: EngineTrack, event: SourceEvent, key: number, velocity: number): void {
    if (!track.effects.some((slot) => slot.isOn)) {
      if (velocity > 0 && !track.isAudible) return
      this.commands.push({
        atSeconds: 0,
        synthChannel: track.synthChannel,
        status: velocity > 0 ? 0x90 : 0x80,
        data1: key,
        data2: velocity,
      })
      return
    }
    const live = this.liveChain(track, event.timeMs)
    const tick = Math.max(live.processedTicks, Math.round(this.liveTicksAtMs(event.timeMs)))
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

  private liveChain(track: EngineTrack, timeMs: Milliseconds): LiveChain {
    let live = this.live.get(track.id)
    if (!live) {
      live = {
        chain: {},
        processedTicks: Math.floor(this.liveTicksAtMs(timeMs)),
        pending: [],
        heldIds: new Map(),
      }
      this.live.set(track.id, live)
    }
    return live
  }

  private advanceLive(nowMs: Milliseconds): void {
    for (const [trackId, live] of this.live) {
      const track = this.setup.tracks.find((candidate) => candidate.id === trackId)
      if (!track) continue
      const toTicks = Math.floor(this.liveTicksAtMs(nowMs))
      if (toTicks <= live.processedTicks) continue
      const due = live.pending.filter((event) => event.tick < toTicks).sort(byTickOffsFirst)
      live.pending = live.pending.filter((event) => event.tick >= toTicks)
      const { out, state } = processChain(
        track.effects,
        { fromTicks: live.processedTicks, toTicks, events: due },
        live.chain,
      )
      live.chain = state
      live.processedTicks = toTicks
      for (const event of out) {
        if (event.type === 'on' && !track.isAudible) continue
        const at = this.audioSeconds(this.liveMsAtTicks(event.tick) + liveEffectDelayMs) ?? 0
        const status = event.type === 'on' ? 0x90 : 0x80
        this.commands.push({
          atSeconds: at,
          synthChannel: track.synthChannel,
          status,
          data1: event.key,
          data2: event.velocity,
        })
      }
    }
  }

  /** Live effects run on the piece's time while the transport runs, else on a free clock at the first tempo. */
  private liveTicksAtMs(timeMs: Milliseconds): Ticks {
    return this.transport.state === 'stopped'
      ? this.tempoMap.ticksAt(timeMs - this.freeStartMs)
      : this.ticksAtMs(timeMs) + this.countInShift()
  }

  private liveMsAtTicks(tick: Ticks): Milliseconds {
    return this.transport.state === 'stopped'
      ? this.freeStartMs + this.tempoMap.msAt(tick)
      : this.msAtTicks(tick - this.countInShift())
  }

  /** Whole bars added while the transport runs, so that live positions in the count-in are never negative. */
  private countInShift(): Ticks {
    return this.meterMap.measureAt(0).lengthTicks * (this.setup.countInBars + 1)
  }

  private audition(trackId: string, key: number, velocity: number): void {
    const track = this.setup.tracks.find((candidate) => candidate.id === trackId)
    if (!track) return
    const at = this.audioSeconds(this.world.nowMs() + 10) ?? 0
    this.commands.push({
      atSeconds: at,
      synthChannel: track.synthChannel,
      status: 0x90,
      data1: key,
      data2: velocity,
    })
    this.commands.push({
      atSeconds: at + 0.35,
      synthChannel: track.synthChannel,
      status: 0x80,
      data1: key,
      data2: 64,
    })
  }

  private panic(): void {
    this.releaseHeld(() => true)
    this.silenceAll()
    if (this.transport.state !== 'stopped') this.stop()
  }

  private releaseHeld(which: (event: SourceEvent) => boolean): void {
    const nowMs = this.world.nowMs()
    for (const { event } of [...this.heldKeys.values()])
      if (which(event))
        this.input({ ...event, timeMs: nowMs, status: 0x80 | (event.status & 0x0f), data2: 64 })
  }

  private releaseHeldOn(track: EngineTrack): void {
    for (const { event, trackIds } of this.heldKeys.values())
      if (trackIds.includes(track.id)) this.soundLive(track, event, event.data1, 0)
  }

  private silence(track: EngineTrack): void {
    this.flushCommands()
    this.world.toSynth({ type: 'cancel', synthChannels: [track.synthChannel] })
    this.playback.get(track.id)?.open.clear()
  }

  private silenceAll(): void {
    this.commands = []
    this.world.toSynth({ type: 'cancel' })
    this.live.clear()
    for (const playback of this.playback.values()) playback.open.clear()
  }

  private reportActivity(nowMs: Milliseconds): void {
    this.lastActivityMs = nowMs
    const listenedNotes = this.capture.listenedNotes
    if (this.activity.length === 0 && listenedNotes === this.reportedNotes) return
    this.reportedNotes = listenedNotes
    this.world.toWindow({ type: 'activity', events: this.activity, listenedNotes })
    this.activity = []
  }

  private flushCommands(): void {
    if (this.commands.length === 0) return
    this.world.toSynth({ type: 'commands', rows: packCommands(this.commands) })
    this.commands = []
  }

  private positionTicks(nowMs: Milliseconds): Ticks {
    return this.transport.state === 'stopped' ? this.transport.ticks : this.ticksAtMs(nowMs)
  }

  /** Position of a moment while the transport runs; before the start (count-in) it is below `fromTicks`. */
  private ticksAtMs(timeMs: Milliseconds): Ticks {
    if (this.transport.state === 'stopped') return this.transport.ticks
    return this.tempoMap.ticksAt(
      this.tempoMap.msAt(this.transport.fromTicks) + timeMs - this.transport.startedAtMs,
    )
  }

  private msAtTicks(tick: Ticks): Milliseconds {
    if (this.transport.state === 'stopped') return this.world.nowMs()
    return (
      this.transport.startedAtMs + this.tempoMap.msAt(tick) - this.tempoMap.msAt(this.transport.fromTicks)
    )
  }

  /** Audio time at which something must begin to be heard at a moment; null while there is no sound. */
  private audioSeconds(timeMs: Milliseconds): number | null {
    if (!this.clock) return null
    return this.clock.contextSeconds + (timeMs - this.clock.epochMs) / 1000
  }
}

function lowerBound(events: readonly EffectEvent[], tick: Ticks): number {
  let low = 0
  let high = events.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (events[middle]!.tick < tick) low = middle + 1
    else high = middle
  }
  return low
}
