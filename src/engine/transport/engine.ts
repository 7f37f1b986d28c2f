import isSame from 'fast-deep-equal'
import type { ClockPoint } from '@/core/capture/takeToNotes'
import { unpackNotes } from '@/core/event/noteColumns'
import { ClockFollower, isClockStatus } from '@/core/midi/clock'
import { parseChannelMessage } from '@/core/midi/message'
import { feedbackRing, RateGuard } from '@/core/routing/feedback'
import { keyOf, Router } from '@/core/routing/route'
import { MeterMap } from '@/core/time/meterMap'
import { TempoMap } from '@/core/time/tempoMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'
import type { Activity, EngineSetup, EngineTrack, FromEngine, SourceEvent, ToEngine } from '../protocol'
import type { SynthMessage } from '../synth/commands'
import { Capture, type TakeJournal } from './capture'
import { type ClickStroke, clicksBetween, countInStrokes } from './click'
import { ClockSender } from './clockSender'
import { EngineMeasure } from './engineMeasure'
import { EngineNow, isMonitored } from './engineNow'
import { GeneratedNotes } from './generatedNotes'
import { LiveInput } from './liveInput'
import { LoopLayers } from './loopLayers'
import { Outlet } from './outlet'
import { type PortMessage, PortSender } from './portSender'
import { type PassWindow, Timeline } from './timeline'
import { TrackPlayback } from './trackPlayback'

/** What the engine reaches the world through; in tests, plain objects. */
export interface EngineWorld {
  nowMs(): Milliseconds
  toSynth(message: SynthMessage): void
  toWindow(message: FromEngine): void
  toPorts(messages: readonly PortMessage[]): void
  readonly journal: TakeJournal
}

/** How far ahead of time notes are handed to the synthesiser. */
const lookAheadMs = 180
/** Time between a start command and the first sound: enough to hand over the first notes. */
const leadMs = 120
const activityEveryMs = 33
/** So many events of one message are handed on to the synthesiser together. */
const eventsTogether = 16
/** Without a tick for this long the machine was asleep. */
const sleepMs = 5000
/** A key held over the end of a recorded stretch is waited for this long. */
const longestHeldMs = 4000
/** Percussion channel of General MIDI, as a status nibble: a click that is sent to a port. */
const percussionNibble = 9
const clickOwner = 'click'

type RecordOrder = Extract<ToEngine, { type: 'record' }>

/**
 * The running heart: one clock, the transport, routing, live effects, capture, what is sent to ports. It owns no timer and
 * no port, so that it runs the same in its worker and in tests; `tick` is called every few milliseconds.
 */
export class Engine {
  private readonly now: EngineNow
  private readonly sender: PortSender
  private readonly outlet: Outlet
  private readonly playback: TrackPlayback
  private readonly live: LiveInput
  private readonly generated: GeneratedNotes
  private readonly capture: Capture
  private readonly measure: EngineMeasure
  private readonly clockSender: ClockSender
  private readonly rateGuard = new RateGuard()
  private untilTicks: Ticks | null = null
  private follower = new ClockFollower()
  private isFollowing = false
  /** Stopped here while the clock ran on: it is followed again after it has stopped too. */
  private isClockLeft = false
  private toldTempo = ''
  private waitingOrder: RecordOrder | null = null
  private recordUntilTicks: Ticks | null = null
  private layersDueMs: Milliseconds | null = null
  private activity: Activity[] = []
  private lastActivityMs = 0
  private lastTickMs: Milliseconds
  private reported = ''

  constructor(private readonly world: EngineWorld) {
    this.lastTickMs = world.nowMs()
    this.now = new EngineNow(world.nowMs)
    this.measure = new EngineMeasure(world.nowMs)
    this.sender = new PortSender((messages) => world.toPorts(messages))
    this.outlet = new Outlet((message) => world.toSynth(message), this.sender, world.nowMs)
    this.playback = new TrackPlayback(this.now, this.outlet)
    this.live = new LiveInput(this.now, this.outlet, this.playback)
    this.capture = new Capture(world.journal, (message) => world.toWindow(message), world.nowMs)
    this.clockSender = new ClockSender(this.sender)
    this.generated = new GeneratedNotes(
      this.now,
      this.playback,
      this.sender,
      (portId, channel) => this.live.sourceSlots(portId, channel),
      (event) => this.keep(event),
    )
  }

  receive(message: ToEngine): void {
    switch (message.type) {
      case 'clock':
        this.outlet.clock = message.sample
        break
      case 'setup':
        this.applySetup(message.setup)
        break
      case 'generators':
        this.generated.setGenerators(message.generators)
        break
      case 'trackContent':
        this.playback.setContent(message.trackId, unpackNotes(message.notes), message.controllers)
        break
      case 'play':
        this.untilTicks = message.untilTicks
        this.start('playing', message.fromTicks, message.loop, this.world.nowMs() + leadMs)
        break
      case 'record':
        this.record(message)
        break
      case 'stop':
        this.stop(message.atMs)
        break
      case 'settled':
        this.capture.settled(message.takeSerial)
        break
      case 'input':
        this.takeIn(message.events)
        break
      case 'measure':
        this.world.toWindow({
          type: 'measured',
          delays: this.measure.switch(message.isOn),
          journal: this.capture.waits,
        })
        break
      case 'portLost':
        this.letGo((portId) => portId === message.portId)
        break
      case 'openPort':
        this.rateGuard.open(message.portId)
        break
      case 'audition':
        this.audition(message.trackId, message.key, message.velocity)
        break
      case 'clickAt':
        for (const timeMs of message.timesMs) this.click(timeMs, { key: 76, velocity: 110 })
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
      case 'leave':
        if (this.now.transport.state !== 'stopped') this.stop()
        this.capture.settleAll()
        this.world.toWindow({ type: 'left' })
        break
      case 'connectSynth':
        break
    }
    this.outlet.flush()
  }

  /** A burst that was held up somewhere is handed on in pieces, so that its first notes do not wait for its last. */
  private takeIn(events: readonly SourceEvent[]): void {
    this.measure.receive()
    for (let first = 0; first < events.length; first += eventsTogether) {
      const piece = events.slice(first, first + eventsTogether)
      for (const event of piece) this.input(event)
      this.outlet.flush()
      this.measure.done(piece)
    }
    // In a flood no tick comes through for a while: the journal is not to wait for one.
    this.capture.tick(this.world.nowMs())
  }

  /** Hands over what is due, works the live effects, reports and journals. */
  tick(): void {
    const nowMs = this.world.nowMs()
    if (nowMs - this.lastTickMs > sleepMs) this.wakeUp(nowMs)
    this.lastTickMs = nowMs
    this.followClock(nowMs)
    this.advancePlayback(nowMs)
    this.generated.deliver(nowMs)
    this.live.advance(nowMs)
    this.endStretch(nowMs)
    this.outlet.flush()
    this.sender.tick(nowMs)
    if (nowMs - this.lastActivityMs >= activityEveryMs) this.reportActivity(nowMs)
    this.capture.tick(nowMs)
  }

  // ── set-up and content ──

  private applySetup(setup: EngineSetup): void {
    const before = this.now.setup
    this.now.setup = setup
    this.capture.isListening = setup.isListening
    this.outlet.ringIds = new Set(feedbackRing(setup.tracks).map((track) => track.id))
    if (!isSame([before.tempos, before.meters], [setup.tempos, setup.meters])) this.applyTempo(setup)
    if (before.clockFrom !== setup.clockFrom) this.forgetClock()
    this.now.router = new Router(setup.tracks)
    this.applySourceEffects(before.sourceChains, setup.sourceChains)
    for (const old of before.tracks) {
      const track = this.now.trackOf(old.id)
      if (!track) this.forgetTrack(old)
      else this.applyTrack(old, track)
    }
  }

  private applyTrack(old: EngineTrack, track: EngineTrack): void {
    const isHeardLess = isMonitored(old) && !isMonitored(track)
    if (!isSame(old.routes, track.routes) || isHeardLess) this.live.releaseOn(old)
    if ((old.isAudible && !track.isAudible) || !isSame(old.sendTo, track.sendTo)) this.playback.silence(old)
    if (!isSame(old.slots, track.slots)) {
      this.live.changeEffects(track)
      this.playback.changeEffects(track)
    }
    if (!isSame(old.changes, track.changes) && this.now.timeline) this.playback.begin(track)
  }

  private applySourceEffects(before: EngineSetup['sourceChains'], chains: EngineSetup['sourceChains']): void {
    const at = (list: typeof chains, { portId, channel }: (typeof chains)[number]) =>
      list.find((each) => each.portId === portId && each.channel === channel)
    const gone = before.filter((old) => !at(chains, old)).map((old) => ({ ...old, slots: [] }))
    const changed = chains.filter((chain) => !isSame(at(before, chain)?.slots ?? [], chain.slots))
    for (const chain of [...gone, ...changed])
      for (const channel of chain.channel === null ? allChannels : [chain.channel]) {
        this.live.changeSourceEffects(chain, channel)
        this.generated.changeSourceEffects(chain.portId, channel, chain.slots)
      }
  }

  private applyTempo(setup: EngineSetup): void {
    const place = this.now.placeAt(this.world.nowMs())
    if (this.live.isThroughEffects) this.silenceAll(false)
    this.now.context = { tempoMap: new TempoMap(setup.tempos), meterMap: new MeterMap(setup.meters) }
    this.live.setContext()
    const { transport } = this.now
    if (transport.state !== 'playing' || this.isFollowing) return
    this.start('playing', Math.max(0, Math.round(place.ticks)), transport.loop, this.world.nowMs() + leadMs)
  }

  private forgetTrack(track: EngineTrack): void {
    this.outlet.silence(track)
    this.playback.forget(track.id)
    this.live.forget(track)
  }

  // ── transport ──

  private start(
    state: 'playing' | 'recording',
    fromTicks: Ticks,
    loop: { readonly startTicks: Ticks; readonly endTicks: Ticks } | null,
    startedAtMs: Milliseconds,
  ): void {
    this.silenceAll(false)
    const plan = { fromTicks, startedAtMs, loop, line: null }
    this.now.transport = { state, ...plan }
    this.now.timeline = new Timeline(this.now.context.tempoMap, plan)
    this.now.scheduled = { pass: 0, ticks: fromTicks }
    this.isFollowing = false
    this.generated.clear()
    this.playback.start()
    // A pedal that a player holds is still down.
    for (const event of this.live.heldControlEvents) this.hearControl(event)
    this.clockSender.begin(this.now.setup.clockTo, fromTicks, startedAtMs)
    this.world.toWindow({ type: 'transport', transport: this.now.transport })
  }

  private record(order: RecordOrder): void {
    this.capture.end(this.world.nowMs())
    this.waitingOrder = null
    if (this.now.setup.clockFrom !== null || order.startsWithFirstNote) {
      this.silenceAll(false)
      this.now.timeline = null
      this.waitingOrder = order
      this.now.transport = {
        state: 'waiting',
        ticks: order.fromTicks,
        waitsFor: this.now.setup.clockFrom !== null ? 'clock' : 'first note',
      }
      this.world.toWindow({ type: 'transport', transport: this.now.transport })
      return
    }
    const beginMs = this.world.nowMs() + leadMs
    const { setup, context } = this.now
    // A run-up is a count-in of its own.
    const bars = order.fromTicks < order.startTicks ? 0 : setup.countInBars
    const countIn = countInStrokes(context, order.fromTicks, bars, setup.click)
    this.beginRecording(order, beginMs + countIn.lengthMs)
    for (const stroke of countIn.strokes) this.click(beginMs + stroke.afterMs, stroke)
  }

  /** @param startedAtMs the moment of `order.fromTicks` */
  private beginRecording(order: RecordOrder, startedAtMs: Milliseconds): void {
    const loop =
      order.isLooping && order.endTicks !== null
        ? { startTicks: order.startTicks, endTicks: order.endTicks }
        : null
    this.untilTicks = null
    this.start('recording', order.fromTicks, loop, startedAtMs)
    this.beginTake(order, loop !== null)
  }

  private beginTake(order: RecordOrder, isLoop: boolean): void {
    const { projectId, takeSerial, startTicks, endTicks, earlyMs } = order
    const anchorMs = this.now.timeline!.msAt({ pass: 0, ticks: startTicks })
    const passMs = isLoop
      ? this.now.context.tempoMap.msAt(endTicks!) - this.now.context.tempoMap.msAt(startTicks)
      : null
    this.recordUntilTicks = isLoop ? null : endTicks
    const nowMs = this.world.nowMs()
    this.capture.begin(
      {
        projectId,
        takeSerial,
        startTicks,
        endTicks: isLoop ? null : endTicks,
        anchorMs,
        earlyMs,
        passMs,
      },
      nowMs,
    )
    if (passMs !== null && this.now.setup.takeMode === 'layered')
      this.playback.layers = new LoopLayers({ anchorMs, passMs, earlyMs }, startTicks, {
        ...this.now.context,
        compensations: this.now.setup.compensations,
        chains: this.now.setup.sourceChains.map((chain) => ({ ...chain, changes: [] })),
      })
    // Keys and pedals that are already down when recording begins belong to the take.
    for (const event of [...this.live.heldControlEvents, ...this.live.heldEvents]) this.capture.keep(event)
  }

  /** @param atMs the moment on the sources' clock: what was played before it and arrives later still belongs to the take */
  private stop(atMs = this.world.nowMs()): void {
    this.isClockLeft = this.isFollowing
    const endMs = Math.min(atMs, this.world.nowMs())
    this.finishAt(Math.max(0, Math.round(this.now.placeAt(endMs).ticks)), endMs)
  }

  /** @param isPlayedOut the music came to its end: what rings on is left to ring */
  private finishAt(ticks: Ticks, endMs: Milliseconds, isPlayedOut = false): void {
    const wasRunning = this.now.transport.state !== 'stopped'
    this.generated.end(endMs)
    this.waitingOrder = null
    this.recordUntilTicks = null
    this.silenceAll(!isPlayedOut)
    if (this.isFollowing) this.keepClockPoint(endMs)
    if (wasRunning) this.clockSender.stop(this.now.setup.clockTo, this.world.nowMs())
    this.now.timeline = null
    this.isFollowing = false
    this.playback.layers = null
    this.now.transport = { state: 'stopped', ticks }
    this.world.toWindow({ type: 'transport', transport: this.now.transport })
    this.capture.end(endMs)
  }

  /** A stretch that is recorded ends by itself, when the last key held over its end is up. */
  private endStretch(nowMs: Milliseconds): void {
    if (this.recordUntilTicks === null || this.now.transport.state !== 'recording' || !this.now.timeline)
      return
    const endMs = this.now.timeline.msAt({ pass: 0, ticks: this.recordUntilTicks })
    if (nowMs < endMs || (this.live.heldEvents.length > 0 && nowMs < endMs + longestHeldMs)) return
    this.stop()
  }

  /** The machine slept: what ran then is ended where it was. */
  private wakeUp(nowMs: Milliseconds): void {
    const sleptMs = nowMs - this.lastTickMs
    const wasRecording = this.capture.isRecording
    this.letGo(() => true, this.lastTickMs)
    if (this.now.transport.state === 'playing' || this.now.transport.state === 'recording')
      this.finishAt(Math.max(0, Math.round(this.now.placeAt(this.lastTickMs).ticks)), this.lastTickMs)
    this.world.toWindow({ type: 'slept', sleptMs, wasRecording })
  }

  // ── a clock that is followed ──

  private forgetClock(): void {
    this.follower = new ClockFollower()
    this.isClockLeft = false
    if (
      this.isFollowing ||
      (this.now.transport.state === 'waiting' && this.now.transport.waitsFor === 'clock')
    )
      this.stop()
  }

  private followClock(nowMs: Milliseconds): void {
    if (this.now.setup.clockFrom === null) return
    const clock = this.follower.at(nowMs)
    this.tellFollowed(clock.state === 'running', clock.tempoBpm)
    if (clock.state === 'stopped') {
      this.isClockLeft = false
      if (this.isFollowing) this.finishAt(Math.max(0, Math.round(clock.ticks)), nowMs)
      return
    }
    const line = { ticks: clock.ticks, timeMs: clock.timeMs, tempoBpm: clock.tempoBpm }
    if (this.isFollowing) {
      this.moveAlong(line, nowMs)
      return
    }
    if (this.now.transport.state === 'playing' || this.now.transport.state === 'recording') return
    if (this.isClockLeft && !this.waitingOrder) return
    this.startWithClock(line, nowMs)
  }

  private startWithClock(
    line: { ticks: Ticks; timeMs: Milliseconds; tempoBpm: number },
    nowMs: number,
  ): void {
    const order = this.waitingOrder
    this.waitingOrder = null
    const msPerTick = 60_000 / line.tempoBpm / TICKS_PER_QUARTER
    const fromTicks = Math.max(0, Math.round(line.ticks + (nowMs - line.timeMs) / msPerTick))
    // The take begins where the clock began, so that nothing played since is left out.
    const beganTicks = Math.max(0, Math.round(line.ticks))
    this.untilTicks = null
    this.start(order ? 'recording' : 'playing', fromTicks, null, nowMs)
    this.isFollowing = true
    this.moveAlong(line, nowMs)
    if (order)
      this.beginTake({ ...order, startTicks: barStart(this.now.context.meterMap, beganTicks) }, false)
    this.keepClockPoint(nowMs)
    this.world.toWindow({ type: 'transport', transport: this.now.transport })
  }

  private moveAlong(line: { ticks: Ticks; timeMs: Milliseconds; tempoBpm: number }, nowMs: number): void {
    if (this.now.transport.state !== 'playing' && this.now.transport.state !== 'recording') return
    const old = this.now.transport.line
    if (old && old.timeMs === line.timeMs) return
    const { state, fromTicks, startedAtMs } = this.now.transport
    const plan = { fromTicks, startedAtMs, loop: null, line }
    this.now.transport = { state, ...plan }
    this.now.timeline = new Timeline(this.now.context.tempoMap, plan)
    const beat = (ticks: Ticks) => Math.floor(ticks / TICKS_PER_QUARTER)
    if (!old || beat(old.ticks) !== beat(line.ticks)) {
      this.keepClockPoint(nowMs)
      this.world.toWindow({ type: 'transport', transport: this.now.transport })
    }
  }

  private keepClockPoint(nowMs: Milliseconds): void {
    if (!this.now.timeline) return
    const point: ClockPoint = { timeMs: nowMs, ticks: this.now.timeline.placeAt(nowMs).ticks }
    this.capture.keepClockPoint(point)
  }

  private tellFollowed(isRunning: boolean, tempoBpm: number | null): void {
    const shown = `${isRunning} ${tempoBpm?.toFixed(2)}`
    if (shown === this.toldTempo) return
    this.toldTempo = shown
    this.world.toWindow({ type: 'followedClock', isRunning, tempoBpm })
  }

  // ── click ──

  private click(atMs: Milliseconds, { key, velocity }: Pick<ClickStroke, 'key' | 'velocity'>): void {
    const { portId } = this.now.setup.click
    if (portId === null) {
      this.outlet.strike(this.now.setup.clickSynthChannel, atMs, key, velocity)
      return
    }
    this.sender.add(clickOwner, portId, atMs, [0x90 | percussionNibble, key, velocity])
    this.sender.add(clickOwner, portId, atMs + 50, [0x80 | percussionNibble, key, 64])
  }

  // ── playback ──

  private advancePlayback(nowMs: Milliseconds): void {
    if (!this.now.timeline) return
    for (const window of this.now.timeline.windowsUntil(this.now.scheduled, nowMs + lookAheadMs)) {
      if (window.pass > this.now.scheduled.pass) this.turnLoop(window, nowMs)
      const toTicks = this.untilTicks !== null ? Math.min(window.toTicks, this.untilTicks) : window.toTicks
      if (toTicks > window.fromTicks) this.scheduleWindow({ ...window, toTicks })
      this.now.scheduled = { pass: window.pass, ticks: Math.max(toTicks, window.fromTicks) }
    }
    if (this.layersDueMs !== null && nowMs >= this.layersDueMs) {
      this.layersDueMs = null
      this.updateLayers(this.now.scheduled.pass, nowMs)
      this.playback.readLayers()
    }
    const { untilTicks } = this
    const { transport } = this.now
    if (
      untilTicks !== null &&
      transport.state === 'playing' &&
      transport.loop === null &&
      this.now.placeAt(nowMs).ticks >= untilTicks
    ) {
      this.finishAt(0, nowMs, true)
    }
  }

  private scheduleWindow(window: PassWindow): void {
    const { setup, timeline, context } = this.now
    const guests = this.generated.window(window)
    for (const track of setup.tracks) this.playback.window(track, window, guests.get(track.id) ?? [])
    if (setup.click.isOn && this.now.transport.state === 'recording')
      for (const stroke of clicksBetween(context.meterMap, window.fromTicks, window.toTicks, setup.click))
        this.click(timeline!.msAt({ pass: window.pass, ticks: stroke.ticks }), stroke)
    this.clockSender.window(setup.clockTo, window, timeline!)
  }

  /** A new turn of the loop: what still sounds ends with the last one, and everything is read from the loop's start. */
  private turnLoop(window: PassWindow, nowMs: Milliseconds): void {
    const turnMs = this.now.timeline!.msAt({ pass: window.pass, ticks: window.fromTicks })
    this.generated.turn(turnMs)
    this.now.scheduled = { pass: window.pass, ticks: window.fromTicks }
    this.playback.endAt(turnMs)
    if (this.playback.layers) {
      this.updateLayers(window.pass, nowMs)
      // Once more when the turn is over: its last notes are played only now.
      this.layersDueMs = turnMs + lookAheadMs
    }
    this.playback.rewindAll()
  }

  private updateLayers(beforePass: number, nowMs: Milliseconds): void {
    const events = this.capture.recordedSoFar()
    const armed = this.now.setup.tracks.filter((track) => track.isArmed)
    if (events) this.playback.layers?.update(events, beforePass, armed, nowMs)
  }

  // ── live ──

  /** One event of a source: kept, routed, made to sound at once. */
  private input(event: SourceEvent): void {
    if (isClockStatus(event.status)) {
      if (event.portId === this.now.setup.clockFrom)
        this.follower.receive(event.status, event.data1, event.data2, event.timeMs)
      return
    }
    const message = parseChannelMessage(event.status, event.data1, event.data2)
    if (!message) return
    const passed = this.rateGuard.pass(event.portId, this.world.nowMs())
    if (passed === 'dropped') return
    if (passed === 'shut') {
      this.letGo((portId) => portId === event.portId)
      this.world.toWindow({ type: 'portShut', portId: event.portId })
      return
    }
    if (message.type === 'noteOn') this.startWithFirstNote(event)
    this.keep(event)
    const reached = this.now.router.reachOf(event.portId, message.channel, keyOf(message))
    if (message.type === 'noteOn' || message.type === 'noteOff') this.live.note(event, message, reached)
    else this.live.controller(event, message, reached)
  }

  /** What a source sent, as it sent it: into the take or into memory, and told to the window where it is a note. */
  private keep(event: SourceEvent): void {
    this.capture.keep(event, () => this.placeToRemember(event.timeMs))
    const { portId, status, data1: key, data2, timeMs } = event
    const kind = status & 0xf0
    if (kind !== 0x80 && kind !== 0x90) return
    const channel = (status & 0x0f) + 1
    const isOn = kind === 0x90 && data2 > 0
    const place = this.now.transport.state === 'recording' ? this.now.placeAt(timeMs) : null
    this.activity.push({
      portId,
      channel,
      key,
      velocity: isOn ? data2 : 0,
      isOn,
      timeMs,
      ticks: place && Math.round(place.ticks),
      pass: place?.pass ?? 0,
      trackIds: this.now.router.reachOf(portId, channel, key).map(({ track }) => track.id),
    })
  }

  private startWithFirstNote(event: SourceEvent): void {
    const order = this.waitingOrder
    if (!order || this.now.transport.state !== 'waiting' || this.now.transport.waitsFor !== 'first note')
      return
    this.waitingOrder = null
    this.beginRecording({ ...order, fromTicks: order.startTicks }, event.timeMs)
  }

  private placeToRemember(timeMs: Milliseconds): ClockPoint | null {
    if (this.now.transport.state !== 'playing' || !this.now.timeline) return null
    return { timeMs, ticks: Math.max(0, Math.round(this.now.timeline.placeAt(timeMs).ticks)) }
  }

  private audition(trackId: string, key: number, velocity: number): void {
    const track = this.now.trackOf(trackId)
    if (!track) return
    const nowMs = this.world.nowMs()
    this.outlet.sound(track, nowMs + 10, 0x90, key, velocity)
    this.outlet.sound(track, nowMs + 360, 0x80, key, 64)
  }

  // ── silence ──

  private panic(): void {
    this.letGo(() => true)
    this.silenceAll(true)
    if (this.now.transport.state !== 'stopped') this.stop()
  }

  /** Everything that ports hold is let go of, in the take as in what is heard: keys up, then pedals up and bends back. */
  private letGo(isOf: (portId: string) => boolean, atMs = this.world.nowMs()): void {
    for (const event of this.live.heldEvents) {
      if (!isOf(event.portId)) continue
      const off = { ...event, timeMs: atMs, status: 0x80 | (event.status & 0x0f), data2: 64 }
      this.keep(off)
      const message = parseChannelMessage(off.status, off.data1, off.data2)
      if (message?.type === 'noteOff') this.live.note(off, message, [])
    }
    for (const event of this.live.letControlsGo(isOf, atMs)) {
      this.keep(event)
      this.hearControl(event)
    }
  }

  private hearControl(event: SourceEvent): void {
    const message = parseChannelMessage(event.status, event.data1, event.data2)
    if (!message) return
    this.live.controller(
      event,
      message,
      this.now.router.reachOf(event.portId, message.channel, keyOf(message)),
    )
  }

  private silenceAll(isSoundOff: boolean): void {
    this.outlet.silenceAll(isSoundOff)
    this.live.letGo()
    this.playback.letGo()
  }

  // ── reports ──

  private reportActivity(nowMs: Milliseconds): void {
    this.lastActivityMs = nowMs
    const { listenedNotes, streamCounts } = this.capture
    const state = `${listenedNotes} ${streamCounts.length}`
    const flows = this.live.flows()
    if (this.activity.length === 0 && state === this.reported && flows === null) return
    this.reported = state
    const streams = streamCounts.map((stream) => ({ ...stream }))
    this.world.toWindow({ type: 'activity', events: this.activity, listenedNotes, streams, flows })
    this.activity = []
  }
}

function barStart(meterMap: MeterMap, ticks: Ticks): Ticks {
  return meterMap.measureAt(ticks).startTicks
}

const allChannels = Array.from({ length: 16 }, (_, index) => index + 1)
