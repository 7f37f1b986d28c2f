import isSame from 'fast-deep-equal'
import { countInStrokes } from '@/core/capture/click'
import type { HeardPlace } from '@/core/capture/listening'
import { unpackNotes } from '@/core/event/noteColumns'
import { isClockStatus } from '@/core/midi/clock'
import { parseChannelMessage } from '@/core/midi/message'
import { feedbackRing, RateGuard } from '@/core/routing/feedback'
import { keyOf } from '@/core/routing/route'
import type { Milliseconds } from '@/core/time/units'
import type { Activity, EngineSetup, EngineTrack, FromEngine, SourceEvent, ToEngine } from '../protocol'
import type { SynthMessage } from '../synth/commands'
import { Capture, type TakeJournal } from './capture'
import { ClockFollowing } from './clockFollowing'
import { ClockSender } from './clockSender'
import { EngineMeasure } from './engineMeasure'
import { EngineStanding, isMonitored } from './engineNow'
import { runOf, takeOf } from './engineState'
import { GeneratedNotes } from './generatedNotes'
import { LiveInput } from './liveInput'
import { Metronome } from './metronome'
import { Outlet } from './outlet'
import { playedTo } from './playedTo'
import { type PortMessage, PortSender } from './portSender'
import { RecordingDesk } from './recordingDesk'
import { TrackPlayback } from './trackPlayback'
import { leadMs, Transport } from './transport'

/** What the engine reaches the world through; in tests, plain objects. */
export interface EngineWorld {
  nowMs(): Milliseconds
  toSynth(message: SynthMessage): void
  toWindow(message: FromEngine): void
  toPorts(messages: readonly PortMessage[]): void
  readonly journal: TakeJournal
}

const activityEveryMs = 33
/** So many events of one message are handed on to the synthesiser together. */
const eventsTogether = 16
/** Without a tick for this long the machine was asleep. */
const sleepMs = 5000
/**
 * The running heart: takes in what the window and the sources say, and lets its parts do what is due. It owns no timer and
 * no port, so that it runs the same in its worker and in tests; `tick` is called every few milliseconds.
 */
export class Engine {
  private readonly now: EngineStanding
  private readonly sender: PortSender
  private readonly outlet: Outlet
  private readonly playback: TrackPlayback
  private readonly live: LiveInput
  private readonly generated: GeneratedNotes
  private readonly capture: Capture
  private readonly measure: EngineMeasure
  private readonly metronome: Metronome
  private readonly transport: Transport
  private readonly desk: RecordingDesk
  private readonly clock: ClockFollowing
  private readonly rateGuard = new RateGuard()
  private activity: Activity[] = []
  private lastActivityMs = 0
  private lastTickMs: Milliseconds
  private reported = ''
  /** The set-up has a tempo or meter that waits for the end of a take. */
  private isTimeWaiting = false

  constructor(private readonly world: EngineWorld) {
    this.lastTickMs = world.nowMs()
    this.now = new EngineStanding(world.nowMs)
    this.measure = new EngineMeasure(world.nowMs)
    this.sender = new PortSender((messages) => world.toPorts(messages))
    this.outlet = new Outlet((message) => world.toSynth(message), this.sender, world.nowMs)
    this.playback = new TrackPlayback(this.now, this.outlet)
    this.live = new LiveInput(this.now, this.outlet, this.playback)
    this.capture = new Capture(world.journal, (message) => world.toWindow(message), world.nowMs)
    this.generated = new GeneratedNotes(
      this.now,
      this.playback,
      this.sender,
      (portId, channel) => this.live.sourceSlots(portId, channel),
      (event) => this.keep(event),
    )
    this.metronome = new Metronome(this.now, this.outlet, this.sender)
    const { playback, generated, metronome, capture, live } = this
    const clockSender = new ClockSender(this.sender)
    this.transport = new Transport(
      this.now,
      { playback, generated, clockSender, metronome, capture },
      {
        toWindow: (message) => world.toWindow(message),
        silence: (isSoundOff) => this.silenceAll(isSoundOff),
        started: () => this.repeatHeldControls(),
        finished: () => this.takeWaitingTime(),
        turned: (pass, turnMs, nowMs) => this.desk.turned(pass, turnMs, nowMs),
      },
    )
    this.desk = new RecordingDesk(this.now, this.transport, capture, playback, live, metronome)
    this.clock = new ClockFollowing(this.now, this.transport, this.desk, (message) => world.toWindow(message))
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
        this.play(message)
        break
      case 'record':
        // What is being recorded is a take of its own; then the next one begins or is waited for.
        this.capture.end(this.world.nowMs())
        this.takeWaitingTime()
        this.desk.record(message)
        break
      case 'stop':
        this.transport.stop(message.atMs ?? this.world.nowMs())
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
        this.letGo((portId) => portId === message.portId, Math.min(message.atMs, this.world.nowMs()))
        break
      case 'openPort':
        this.rateGuard.open(message.portId)
        break
      case 'audition':
        this.audition(message.trackId, message.key, message.velocity)
        break
      case 'clickAt':
        for (const timeMs of message.timesMs) this.metronome.strike(timeMs, { key: 76, velocity: 110 })
        break
      case 'keepListened':
        this.capture.keepListened(
          message.projectId,
          message.takeSerial,
          playedTo(this.now.setup, this.now.tempos),
        )
        break
      case 'forgetListened':
        this.capture.forgetListened()
        this.reportActivity(this.world.nowMs())
        break
      case 'panic':
        this.panic()
        break
      case 'hush':
        this.outlet.silenceAll(true)
        break
      case 'leave':
        this.stopWhatRuns()
        this.capture.settleAll()
        this.world.toWindow({ type: 'left' })
        break
      case 'connectSynth':
        break
    }
    this.outlet.flush()
  }

  private play({ fromTicks, untilTicks, loop, countInBars = 0 }: Extract<ToEngine, { type: 'play' }>): void {
    const beginMs = this.world.nowMs() + leadMs
    const countIn = countInStrokes(this.now.context, fromTicks, countInBars, this.now.setup.click)
    this.transport.start(
      { doing: 'playing', untilTicks },
      { fromTicks, startedAtMs: beginMs + countIn.lengthMs, loop, line: null },
    )
    for (const stroke of countIn.strokes) this.metronome.strike(beginMs + stroke.afterMs, stroke)
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

  /** Nothing runs, is held down or waits to be sent or stored: the next tick may come later, and does no harm if it does not. */
  get isAtRest(): boolean {
    return (
      this.now.state.doing === 'resting' &&
      this.now.setup.clockFrom === null &&
      !this.capture.isBusy &&
      !this.sender.isBusy &&
      !this.live.isThroughEffects
    )
  }

  /** Hands over what is due, works the live effects, reports and journals. */
  tick(): void {
    const nowMs = this.world.nowMs()
    if (nowMs - this.lastTickMs > sleepMs) this.wakeUp(nowMs)
    this.lastTickMs = nowMs
    this.clock.advance(nowMs)
    this.transport.advance(nowMs)
    this.desk.advance(nowMs)
    this.generated.deliver(nowMs)
    this.live.advance(nowMs)
    this.desk.endStretch(nowMs)
    this.outlet.flush()
    this.sender.tick(nowMs)
    if (nowMs - this.lastActivityMs >= activityEveryMs) this.reportActivity(nowMs)
    this.capture.tick(nowMs)
  }

  // ── set-up and content ──

  private applySetup(setup: EngineSetup): void {
    const before = this.now.setup
    this.now.setUp(setup)
    this.capture.isListening = setup.isListening
    this.outlet.ringIds = new Set(feedbackRing(setup.tracks).map((track) => track.id))
    if (!isSame([before.tempos, before.meters], [setup.tempos, setup.meters])) this.timeChanged()
    if (before.clockFrom !== setup.clockFrom) this.clock.forget()
    this.applySourceEffects(before.sourceChains, setup.sourceChains)
    for (const old of before.tracks) {
      const track = this.now.trackOf(old.id)
      if (!track) this.forgetTrack(old)
      else this.applyTrack(old, track)
    }
    this.capture.setupChanged(setup, () => this.now.placeAt(this.world.nowMs()).ticks)
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

  /** Another tempo or meter: at once, or after the take that is being recorded, which goes on as it began. */
  private timeChanged(): void {
    if (!this.capture.isRecording) {
      this.applyTime()
      return
    }
    if (!this.isTimeWaiting) this.world.toWindow({ type: 'tempoWaits' })
    this.isTimeWaiting = true
  }

  private takeWaitingTime(): void {
    if (!this.isTimeWaiting) return
    this.isTimeWaiting = false
    this.applyTime()
  }

  private applyTime(): void {
    const place = this.now.placeAt(this.world.nowMs())
    if (this.live.isThroughEffects) this.silenceAll(false)
    this.now.takeTime()
    this.live.setContext()
    const { state } = this.now
    if (state.doing !== 'playing') return
    this.transport.start(
      { doing: 'playing', untilTicks: state.untilTicks },
      {
        fromTicks: Math.max(0, Math.round(place.ticks)),
        startedAtMs: this.world.nowMs() + leadMs,
        loop: state.plan.loop,
        line: null,
      },
    )
  }

  private forgetTrack(track: EngineTrack): void {
    this.outlet.silence(track)
    this.playback.forget(track.id)
    this.live.forget(track)
  }

  private stopWhatRuns(): void {
    if (this.now.state.doing !== 'resting') this.transport.stop(this.world.nowMs())
  }

  /** The machine slept: what ran then is ended where it was. */
  private wakeUp(nowMs: Milliseconds): void {
    const sleptMs = nowMs - this.lastTickMs
    const wasRecording = this.capture.isRecording
    this.letGo(() => true, this.lastTickMs)
    if (runOf(this.now.state)) this.transport.stop(this.lastTickMs)
    this.world.toWindow({ type: 'slept', sleptMs, wasRecording })
  }

  // ── live ──

  /** One event of a source: kept, routed, made to sound at once. */
  private input(event: SourceEvent): void {
    if (isClockStatus(event.status)) {
      this.clock.receive(event)
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
    if (message.type === 'noteOn') this.desk.notePlayed(event)
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
    const place = takeOf(this.now.state) ? this.now.placeAt(timeMs) : null
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

  private placeToRemember(timeMs: Milliseconds): HeardPlace | null {
    const { state } = this.now
    const run = runOf(state)
    if (!run || takeOf(state)) return null
    const ticks = Math.max(0, Math.round(this.now.placeAt(timeMs).ticks))
    return { timeMs, ticks, tempos: run.plan.tempos }
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
    this.stopWhatRuns()
  }

  /** Everything that ports hold is let go of, in the take as in what is heard: keys up, then pedals up and bends back. */
  private letGo(isOf: (portId: string) => boolean, atMs = this.world.nowMs()): void {
    for (const event of this.live.heldEvents) {
      if (!isOf(event.portId)) continue
      const off = {
        ...event,
        timeMs: Math.max(atMs, event.timeMs),
        status: 0x80 | (event.status & 0x0f),
        data2: 64,
      }
      this.keep(off)
      const message = parseChannelMessage(off.status, off.data1, off.data2)
      if (message?.type === 'noteOff') this.live.note(off, message, [])
    }
    for (const event of this.live.letControlsGo(isOf, atMs)) {
      this.keep(event)
      this.hearControl(event)
    }
  }

  /** A pedal that a player holds is still down when the piece begins to run. */
  private repeatHeldControls(): void {
    for (const event of this.live.heldControlEvents) this.hearControl(event)
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

const allChannels = Array.from({ length: 16 }, (_, index) => index + 1)
