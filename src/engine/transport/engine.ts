import type { ClockPoint } from '@/core/capture/takeToNotes'
import { activeSlots, type EffectSlot, effectOf } from '@/core/effects/catalogue'
import { ChainRun, noteEvents } from '@/core/effects/chainRun'
import type { EffectEvent, EffectNoteOn, MusicalContext } from '@/core/effects/noteEffect'
import type { ControllerEvent, Note } from '@/core/event/note'
import { unpackNotes } from '@/core/event/noteColumns'
import { controllerMessage } from '@/core/formats/projectToMidi'
import type { Generator } from '@/core/generators/generator'
import { ClockFollower, isClockStatus } from '@/core/midi/clock'
import { type ChannelMessage, channelMessageBytes, parseChannelMessage } from '@/core/midi/message'
import { defaultClick } from '@/core/project/create'
import { feedbackRing, RateGuard } from '@/core/routing/feedback'
import { cablePortId } from '@/core/routing/ports'
import { keyOf, type Reach, Router, shapeMessage } from '@/core/routing/route'
import { MeterMap } from '@/core/time/meterMap'
import { TempoMap } from '@/core/time/tempoMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'
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
import { clicksBetween } from './click'
import { ClockSender } from './clockSender'
import { type GeneratedMessage, GeneratorPlayer, type RoutedEvent } from './generatorPlayer'
import { LiveChains } from './liveChains'
import { LoopLayers } from './loopLayers'
import { type PortMessage, PortSender } from './portSender'
import { type PassWindow, type Place, Timeline } from './timeline'

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
/** A live effect works in windows of one tick of the engine; its notes sound this much later than the clock, all alike. */
const liveEffectDelayMs = 12
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

interface TrackContent {
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
}

interface TrackPlayback {
  /** What is played, on its way through the track's effects: the content, and in a layered loop the earlier passes. */
  run: ChainRun
  /** Which pass is being read, for the moments of what comes out. */
  pass: number
  controllerIndex: number
  /** Notes handed over whose end is not yet. */
  readonly open: Set<EffectNoteOn>
}

/** A key that is down, with what it sounds on each track. */
interface HeldKey {
  readonly event: SourceEvent
  readonly reached: readonly { readonly trackId: string; readonly shaped: ChannelMessage }[]
  /** It sounds through the effects of its source. */
  readonly throughEffects: boolean
}

type RecordOrder = Extract<ToEngine, { type: 'record' }>

/** An engine that was told nothing yet. */
export const emptySetup: EngineSetup = {
  tracks: [],
  tempos: [],
  meters: [],
  countInBars: 1,
  click: defaultClick,
  clickSynthChannel: 0,
  takeMode: 'fresh',
  isListening: true,
  compensations: [],
  sourceChains: [],
  clockTo: [],
  clockFrom: null,
  cables: [],
}

const emptyContent: TrackContent = { notes: [], controllers: [] }

/**
 * The running heart: one clock, the transport, routing, live effects, capture, what is sent to ports. It owns no timer and
 * no port, so that it runs the same in its worker and in tests; `tick` is called every few milliseconds.
 */
export class Engine {
  private setup: EngineSetup = emptySetup
  private tempoMap = new TempoMap([])
  private meterMap = new MeterMap([])
  private router = new Router<EngineTrack>([])
  private readonly contents = new Map<string, TrackContent>()
  private clock: ClockSample | null = null
  private transport: TransportState = { state: 'stopped', ticks: 0 }
  private timeline: Timeline | null = null
  private untilTicks: Ticks | null = null
  private scheduled: Place = { pass: 0, ticks: 0 }
  private playback = new Map<string, TrackPlayback>()
  /** Effects of tracks and of sources, as they are played. */
  private readonly live = new LiveChains((id, event, isAtOnce) => this.comeOut(id, event, isAtOnce))
  private readonly generators = new GeneratorPlayer()
  private generatorList: readonly Generator[] = []
  /** Messages of generators that a take gets when they are due, in order. */
  private dueMessages: (GeneratedMessage & { readonly timeMs: Milliseconds })[] = []
  /** What notes that came out of a source's effects sound on each track. */
  private readonly routedNotes = new Map<EffectNoteOn, HeldKey['reached']>()
  private context: MusicalContext = { tempoMap: this.tempoMap, meterMap: this.meterMap }
  private readonly capture: Capture
  private readonly sender: PortSender
  private readonly clockSender: ClockSender
  private readonly rateGuard = new RateGuard()
  private follower = new ClockFollower()
  private isFollowing = false
  /** Stopped here while the clock ran on: it is followed again after it has stopped too. */
  private isClockLeft = false
  private toldTempo = ''
  private waitingOrder: RecordOrder | null = null
  private recordUntilTicks: Ticks | null = null
  private layers: LoopLayers | null = null
  private layersDueMs: Milliseconds | null = null
  /** Tracks whose earlier music is silent since somebody plays on them in this recording. */
  private readonly steppedBack = new Set<string>()
  /** Tracks that would feed themselves: nothing of them is sent. */
  private ringIds = new Set<string>()
  private activity: Activity[] = []
  private lastActivityMs = 0
  private lastTickMs: Milliseconds
  private reported = ''
  private commands: TimedCommand[] = []
  /** Keys that live sources hold down, by port, channel and key. */
  private readonly heldKeys = new Map<string, HeldKey>()
  private delays: { readonly inEngineMs: Milliseconds[]; readonly fromSourceMs: Milliseconds[] } | null = null
  private readonly unmeasured: { readonly arrivedMs: Milliseconds; readonly sentMs: Milliseconds }[] = []
  private receivedMs: Milliseconds = 0
  private readonly freeStartMs: Milliseconds

  constructor(private readonly world: EngineWorld) {
    this.freeStartMs = world.nowMs()
    this.live.setContext(this.context)
    this.lastTickMs = this.freeStartMs
    this.capture = new Capture(world.journal, (message) => world.toWindow(message), world.nowMs)
    this.sender = new PortSender((messages) => world.toPorts(messages))
    this.clockSender = new ClockSender(this.sender)
  }

  receive(message: ToEngine): void {
    switch (message.type) {
      case 'clock':
        this.clock = message.sample
        break
      case 'setup':
        this.applySetup(message.setup)
        break
      case 'generators':
        this.endGenerated(this.world.nowMs())
        this.generatorList = message.generators
        break
      case 'trackContent':
        this.applyContent(message.trackId, unpackNotes(message.notes), message.controllers)
        break
      case 'play':
        this.untilTicks = message.untilTicks
        this.start('playing', message.fromTicks, message.loop, this.world.nowMs() + leadMs)
        break
      case 'record':
        this.record(message)
        break
      case 'stop':
        this.stop()
        break
      case 'input':
        this.takeIn(message.events)
        break
      case 'measure':
        this.world.toWindow({
          type: 'measured',
          delays: this.delays ?? { inEngineMs: [], fromSourceMs: [] },
          longestJournalWaitMs: this.capture.longestWaitMs,
        })
        this.delays = message.isOn ? { inEngineMs: [], fromSourceMs: [] } : null
        break
      case 'portLost':
        this.releaseHeld((event) => event.portId === message.portId)
        break
      case 'openPort':
        this.rateGuard.open(message.portId)
        break
      case 'audition':
        this.audition(message.trackId, message.key, message.velocity)
        break
      case 'clickAt':
        for (const timeMs of message.timesMs) this.click(timeMs, 76, 110)
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

  /** A burst that was held up somewhere is handed on in pieces, so that its first notes do not wait for its last. */
  private takeIn(events: readonly SourceEvent[]): void {
    for (let first = 0; first < events.length; first += eventsTogether) {
      if (this.delays) this.receivedMs = this.world.nowMs()
      const piece = events.slice(first, first + eventsTogether)
      for (const event of piece) this.input(event)
      this.noteArrival(piece)
      this.flushCommands()
      this.noteDelays()
    }
    // In a flood no tick comes through for a while: the journal is not to wait for one.
    this.capture.tick(this.world.nowMs())
  }

  private noteDelays(): void {
    if (!this.delays || this.unmeasured.length === 0) return
    const nowMs = this.world.nowMs()
    for (const { arrivedMs, sentMs } of this.unmeasured.splice(0)) {
      this.delays.inEngineMs.push(nowMs - arrivedMs)
      this.delays.fromSourceMs.push(nowMs - sentMs)
    }
  }

  /** While it is measured how long note-ons take to their commands. */
  private noteArrival(events: readonly SourceEvent[]): void {
    if (!this.delays) return
    for (const { status, timeMs } of events)
      if ((status & 0xf0) === 0x90) this.unmeasured.push({ arrivedMs: this.receivedMs, sentMs: timeMs })
  }

  /** Hands over what is due, works the live effects, reports and journals. */
  tick(): void {
    const nowMs = this.world.nowMs()
    if (nowMs - this.lastTickMs > sleepMs) this.wakeUp(nowMs)
    this.lastTickMs = nowMs
    this.followClock(nowMs)
    this.advancePlayback(nowMs)
    this.deliverGenerated(nowMs)
    this.advanceLive(nowMs)
    this.endStretch(nowMs)
    this.flushCommands()
    this.sender.tick(nowMs)
    if (nowMs - this.lastActivityMs >= activityEveryMs) this.reportActivity(nowMs)
    this.capture.tick(nowMs)
  }

  // ── set-up and content ──

  private applySetup(setup: EngineSetup): void {
    const before = this.setup
    this.setup = setup
    this.capture.isListening = setup.isListening
    this.ringIds = new Set(feedbackRing(setup.tracks).map((track) => track.id))
    if (!isSame([before.tempos, before.meters], [setup.tempos, setup.meters])) this.applyTempo(setup)
    if (before.clockFrom !== setup.clockFrom) this.forgetClock()
    this.router = new Router(setup.tracks)
    for (const chain of setup.sourceChains) {
      const old = before.sourceChains.find((each) => addressOf(each) === addressOf(chain))
      if (old && !isSame(old.slots, chain.slots)) this.changeSourceEffects(chain)
    }
    for (const old of before.sourceChains)
      if (!setup.sourceChains.some((chain) => addressOf(chain) === addressOf(old)))
        this.changeSourceEffects({ ...old, slots: [] })
    for (const old of before.tracks) {
      const track = setup.tracks.find((candidate) => candidate.id === old.id)
      if (!track) this.forgetTrack(old)
      else {
        if (!isSame(old.routes, track.routes) || (isMonitored(old) && !isMonitored(track)))
          this.releaseHeldOn(old)
        if ((old.isAudible && !track.isAudible) || !isSame(old.sendTo, track.sendTo)) this.silence(old)
        if (old.effects !== track.effects && !isSame(old.effects, track.effects)) this.changeEffects(track)
        if (!isSame(old.effectChanges, track.effectChanges) && this.playback.has(track.id)) {
          this.silence(track)
          this.rewind(track, this.scheduled.ticks)
        }
      }
    }
  }

  private applyTempo(setup: EngineSetup): void {
    const place = this.placeAt(this.world.nowMs())
    this.tempoMap = new TempoMap(setup.tempos)
    this.meterMap = new MeterMap(setup.meters)
    this.context = { tempoMap: this.tempoMap, meterMap: this.meterMap }
    if (!this.live.isEmpty) this.silenceAll()
    this.live.setContext(this.context)
    if (this.transport.state !== 'playing' || this.isFollowing) return
    const { loop } = this.transport
    this.start('playing', Math.max(0, Math.round(place.ticks)), loop, this.world.nowMs() + leadMs)
  }

  private forgetTrack(track: EngineTrack): void {
    this.releaseHeldOn(track)
    this.silence(track)
    this.contents.delete(track.id)
    this.playback.delete(track.id)
    this.live.forget(track.id)
  }

  /** Other settings take effect from where the piece is read; notes go on. */
  private changeEffects(track: EngineTrack): void {
    this.live.change(track.id, track.effects)
    this.playback.get(track.id)?.run.change(this.scheduled.ticks, track.effects)
  }

  private changeSourceEffects({ portId, channel, slots }: EngineSetup['sourceChains'][number]): void {
    for (const each of channel === null ? allChannels : [channel]) {
      this.live.change(sourceChainId(portId, each), slots)
      this.generators.changeSlots(portId, each, this.scheduled.ticks, slots)
    }
  }

  private applyContent(
    trackId: string,
    notes: readonly Note[],
    controllers: readonly ControllerEvent[],
  ): void {
    this.contents.set(trackId, { notes, controllers: [...controllers].sort((a, b) => a.tick - b.tick) })
    const track = this.setup.tracks.find((candidate) => candidate.id === trackId)
    if (!track || !this.timeline) return
    this.silence(track)
    this.rewind(track, this.scheduled.ticks)
  }

  // ── transport ──

  private start(
    state: 'playing' | 'recording',
    fromTicks: Ticks,
    loop: { readonly startTicks: Ticks; readonly endTicks: Ticks } | null,
    startedAtMs: Milliseconds,
  ): void {
    this.silenceAll()
    const plan = { fromTicks, startedAtMs, loop, line: null }
    this.transport = { state, ...plan }
    this.timeline = new Timeline(this.tempoMap, plan)
    this.isFollowing = false
    this.scheduled = { pass: 0, ticks: fromTicks }
    this.steppedBack.clear()
    this.layers = null
    this.playback = new Map()
    this.generators.end(fromTicks)
    this.dueMessages = []
    for (const track of this.setup.tracks) this.rewind(track, fromTicks)
    this.clockSender.begin(this.setup.clockTo, fromTicks, startedAtMs)
    this.world.toWindow({ type: 'transport', transport: this.transport })
  }

  private record(order: RecordOrder): void {
    this.capture.finish(this.world.nowMs())
    this.waitingOrder = null
    if (this.setup.clockFrom !== null || order.startsWithFirstNote) {
      this.silenceAll()
      this.timeline = null
      this.waitingOrder = order
      this.transport = {
        state: 'waiting',
        ticks: order.fromTicks,
        waitsFor: this.setup.clockFrom !== null ? 'clock' : 'first note',
      }
      this.world.toWindow({ type: 'transport', transport: this.transport })
      return
    }
    const nowMs = this.world.nowMs()
    // A run-up is a count-in of its own.
    const countInMs = order.fromTicks < order.startTicks ? 0 : this.countInMs(order.fromTicks)
    this.beginRecording(order, nowMs + leadMs + countInMs)
    if (countInMs > 0) this.scheduleCountIn(order.fromTicks, nowMs + leadMs, countInMs)
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
    const anchorMs = this.timeline!.msAt({ pass: 0, ticks: startTicks })
    const passMs = isLoop ? this.tempoMap.msAt(endTicks!) - this.tempoMap.msAt(startTicks) : null
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
    if (passMs !== null && this.setup.takeMode === 'layered')
      this.layers = new LoopLayers(
        { anchorMs, passMs, earlyMs },
        startTicks,
        this.tempoMap,
        this.setup.compensations,
      )
    // Keys that are already down when recording begins belong to the take with their full length.
    for (const { event } of this.heldKeys.values()) this.capture.keep(event)
  }

  private stop(): void {
    const nowMs = this.world.nowMs()
    this.isClockLeft = this.isFollowing
    this.finishAt(Math.max(0, Math.round(this.placeAt(nowMs).ticks)), nowMs)
  }

  private finishAt(ticks: Ticks, endMs: Milliseconds): void {
    const wasRunning = this.transport.state !== 'stopped'
    this.deliverGenerated(endMs)
    this.endGenerated(endMs)
    this.deliverGenerated(endMs)
    this.dueMessages = []
    this.waitingOrder = null
    this.recordUntilTicks = null
    this.silenceAll()
    if (this.isFollowing) this.keepClockPoint(endMs)
    if (wasRunning) this.clockSender.stop(this.setup.clockTo, this.world.nowMs())
    this.timeline = null
    this.isFollowing = false
    this.layers = null
    this.transport = { state: 'stopped', ticks }
    this.world.toWindow({ type: 'transport', transport: this.transport })
    this.capture.finish(endMs)
  }

  /** A stretch that is recorded ends by itself, when the last key held over its end is up. */
  private endStretch(nowMs: Milliseconds): void {
    if (this.recordUntilTicks === null || this.transport.state !== 'recording' || !this.timeline) return
    const endMs = this.timeline.msAt({ pass: 0, ticks: this.recordUntilTicks })
    if (nowMs < endMs || (this.heldKeys.size > 0 && nowMs < endMs + longestHeldMs)) return
    this.stop()
  }

  /** The machine slept: what ran then is ended where it was. */
  private wakeUp(nowMs: Milliseconds): void {
    const sleptMs = nowMs - this.lastTickMs
    const wasRecording = this.capture.isRecording
    this.releaseHeld(() => true, this.lastTickMs)
    if (this.transport.state === 'playing' || this.transport.state === 'recording')
      this.finishAt(Math.max(0, Math.round(this.placeAt(this.lastTickMs).ticks)), this.lastTickMs)
    this.world.toWindow({ type: 'slept', sleptMs, wasRecording })
  }

  // ── a clock that is followed ──

  private forgetClock(): void {
    this.follower = new ClockFollower()
    this.isClockLeft = false
    if (this.isFollowing || (this.transport.state === 'waiting' && this.transport.waitsFor === 'clock'))
      this.stop()
  }

  private followClock(nowMs: Milliseconds): void {
    if (this.setup.clockFrom === null) return
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
    if (this.transport.state === 'playing' || this.transport.state === 'recording') return
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
    if (order) this.beginTake({ ...order, startTicks: barStart(this.meterMap, beganTicks) }, false)
    this.keepClockPoint(nowMs)
    this.world.toWindow({ type: 'transport', transport: this.transport })
  }

  private moveAlong(line: { ticks: Ticks; timeMs: Milliseconds; tempoBpm: number }, nowMs: number): void {
    if (this.transport.state !== 'playing' && this.transport.state !== 'recording') return
    const old = this.transport.line
    if (old && old.timeMs === line.timeMs) return
    const { state, fromTicks, startedAtMs } = this.transport
    const plan = { fromTicks, startedAtMs, loop: null, line }
    this.transport = { state, ...plan }
    this.timeline = new Timeline(this.tempoMap, plan)
    const beat = (ticks: Ticks) => Math.floor(ticks / TICKS_PER_QUARTER)
    if (!old || beat(old.ticks) !== beat(line.ticks)) {
      this.keepClockPoint(nowMs)
      this.world.toWindow({ type: 'transport', transport: this.transport })
    }
  }

  private keepClockPoint(nowMs: Milliseconds): void {
    if (!this.timeline) return
    const point: ClockPoint = { timeMs: nowMs, ticks: this.timeline.placeAt(nowMs).ticks }
    this.capture.keepClockPoint(point)
  }

  private tellFollowed(isRunning: boolean, tempoBpm: number | null): void {
    const shown = `${isRunning} ${tempoBpm?.toFixed(2)}`
    if (shown === this.toldTempo) return
    this.toldTempo = shown
    this.world.toWindow({ type: 'followedClock', isRunning, tempoBpm })
  }

  // ── click ──

  private countInMs(fromTicks: Ticks): Milliseconds {
    if (this.setup.countInBars === 0) return 0
    const bar = this.meterMap.measureAt(fromTicks)
    return (
      (this.tempoMap.msAt(fromTicks + bar.lengthTicks) - this.tempoMap.msAt(fromTicks)) *
      this.setup.countInBars
    )
  }

  /** The click of the bar that begins, as often as it is counted in. */
  private scheduleCountIn(fromTicks: Ticks, beginMs: Milliseconds, countInMs: Milliseconds): void {
    const bar = this.meterMap.measureAt(fromTicks)
    const startMs = this.tempoMap.msAt(fromTicks)
    const strokes = clicksBetween(
      new MeterMap([{ ...bar, tick: 0 }]),
      0,
      bar.lengthTicks,
      this.setup.click.level === 0 ? { ...this.setup.click, level: 0.5 } : this.setup.click,
    )
    const barMs = countInMs / this.setup.countInBars
    for (let count = 0; count < this.setup.countInBars; count++)
      for (const stroke of strokes) {
        const inBarMs = this.tempoMap.msAt(fromTicks + stroke.ticks) - startMs
        this.click(beginMs + count * barMs + inBarMs, stroke.key, stroke.velocity)
      }
  }

  private click(atMs: Milliseconds, key: number, velocity: number): void {
    const { portId } = this.setup.click
    if (portId !== null) {
      this.sender.add(clickOwner, portId, atMs, [0x90 | percussionNibble, key, velocity])
      this.sender.add(clickOwner, portId, atMs + 50, [0x80 | percussionNibble, key, 64])
      return
    }
    const at = this.audioSeconds(atMs)
    if (at === null) return
    const synthChannel = this.setup.clickSynthChannel
    this.commands.push({ atSeconds: at, synthChannel, status: 0x90, data1: key, data2: velocity })
    this.commands.push({ atSeconds: at + 0.05, synthChannel, status: 0x80, data1: key, data2: 0 })
  }

  // ── playback ──

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
    for (const event of latest.values()) this.sendController(track, event, null)
    const playback = {
      run: this.runOf(
        track,
        this.steppedBack.has(track.id) ? [] : this.notesToPlay(track.id, content),
        fromTicks,
      ),
      pass: this.scheduled.pass,
      controllerIndex,
      open: new Set<EffectNoteOn>(),
    }
    this.playback.set(track.id, playback)
  }

  /** Notes on their way through the effects of a track, read up to a position without a sound. */
  private runOf(track: EngineTrack, notes: readonly Note[], fromTicks: Ticks): ChainRun {
    let isSilent = true
    const plan = { slots: track.effects, changes: track.effectChanges }
    const run = new ChainRun(noteEvents(notes), plan, this.context, (event) => {
      if (!isSilent) this.scheduleEvent(track.id, event)
    })
    if (!run.skipTo(fromTicks)) run.advance(fromTicks)
    isSilent = false
    return run
  }

  private notesToPlay(trackId: string, content: TrackContent): readonly Note[] {
    const layered = this.layers?.notesOf(trackId) ?? []
    if (layered.length === 0) return content.notes
    return [...content.notes, ...layered].sort((a, b) => a.onsetTicks - b.onsetTicks)
  }

  private advancePlayback(nowMs: Milliseconds): void {
    if (!this.timeline) return
    for (const window of this.timeline.windowsUntil(this.scheduled, nowMs + lookAheadMs)) {
      if (window.pass > this.scheduled.pass) this.turnLoop(window, nowMs)
      const toTicks = this.untilTicks !== null ? Math.min(window.toTicks, this.untilTicks) : window.toTicks
      if (toTicks > window.fromTicks) this.scheduleWindow({ ...window, toTicks })
      this.scheduled = { pass: window.pass, ticks: Math.max(toTicks, window.fromTicks) }
    }
    if (this.layersDueMs !== null && nowMs >= this.layersDueMs) {
      this.layersDueMs = null
      this.readLayers(nowMs)
    }
    const { transport, untilTicks } = this
    if (
      untilTicks !== null &&
      transport.state === 'playing' &&
      transport.loop === null &&
      this.placeAt(nowMs).ticks >= untilTicks
    ) {
      this.finishAt(0, nowMs)
    }
  }

  private scheduleWindow(window: PassWindow): void {
    const guests = this.scheduleGenerators(window)
    for (const track of this.setup.tracks) this.scheduleTrack(track, window, guests.get(track.id) ?? [])
    if (this.setup.click.isOn && this.transport.state === 'recording')
      for (const stroke of clicksBetween(this.meterMap, window.fromTicks, window.toTicks, this.setup.click))
        this.click(
          this.timeline!.msAt({ pass: window.pass, ticks: stroke.ticks }),
          stroke.key,
          stroke.velocity,
        )
    this.clockSender.window(this.setup.clockTo, window, this.timeline!)
  }

  /** A new turn of the loop: what still sounds ends with the last one, and everything is read from the loop's start. */
  private turnLoop(window: PassWindow, nowMs: Milliseconds): void {
    const turnMs = this.timeline!.msAt({ pass: window.pass, ticks: window.fromTicks })
    this.endGenerated(turnMs)
    this.scheduled = { pass: window.pass, ticks: window.fromTicks }
    for (const track of this.setup.tracks) {
      for (const on of this.playback.get(track.id)?.open ?? [])
        this.sound(track, turnMs, 0x80, on.key, 64, on.channel)
    }
    if (this.layers) {
      this.layers.update(
        this.capture.recordedSoFar()!,
        window.pass,
        this.setup.tracks.filter((track) => track.isArmed),
        nowMs,
      )
      // Once more when the turn is over: its last notes are played only now.
      this.layersDueMs = turnMs + lookAheadMs
    }
    for (const track of this.setup.tracks) this.rewind(track, window.fromTicks)
  }

  private readLayers(nowMs: Milliseconds): void {
    const events = this.capture.recordedSoFar()
    if (!this.layers || !events) return
    const armed = this.setup.tracks.filter((track) => track.isArmed)
    this.layers.update(events, this.scheduled.pass, armed, nowMs)
    for (const track of armed) {
      const playback = this.playback.get(track.id)
      if (!playback) continue
      const notes = this.notesToPlay(track.id, this.contents.get(track.id) ?? emptyContent)
      playback.run = this.runOf(track, notes, this.scheduled.ticks)
    }
  }

  /** What generators play, by the track it reaches, shaped by its route. */
  private scheduleGenerators({ pass, fromTicks, toTicks }: PassWindow): Map<string, EffectEvent[]> {
    const guests = new Map<string, EffectEvent[]>()
    const generators = this.generatorList
    if (generators.length === 0) return guests
    const slotsOf = (portId: string, channel: number) => this.sourceSlots(portId, channel)
    const { messages, events } = this.generators.window(generators, slotsOf, this.context, fromTicks, toTicks)
    this.keepLater(messages, (tick) => this.timeline!.msAt({ pass, ticks: tick }))
    for (const routed of events) this.routeGuest(routed, guests)
    return guests
  }

  private keepLater(messages: readonly GeneratedMessage[], msAt: (tick: Ticks) => Milliseconds): void {
    for (const message of messages) {
      const timeMs = msAt(message.tick)
      this.dueMessages.push({ ...message, timeMs })
      if (message.cable === null) continue
      const status = (message.velocity > 0 ? 0x90 : 0x80) | (message.channel - 1)
      const bytes = [status, message.key, message.velocity || 64]
      this.sender.add(message.portId, cablePortId(message.cable), timeMs, bytes)
    }
  }

  private readonly guestNotes = new Map<
    EffectNoteOn,
    { readonly trackId: string; readonly on: EffectNoteOn }[]
  >()

  private routeGuest({ portId, event }: RoutedEvent, guests: Map<string, EffectEvent[]>): void {
    const give = (trackId: string, guest: EffectEvent) => {
      const known = guests.get(trackId)
      if (known) known.push(guest)
      else guests.set(trackId, [guest])
    }
    if (event.type === 'control') {
      for (const { track } of this.router.reachOf(portId, event.channel, null)) give(track.id, event)
      return
    }
    if (event.type === 'off') {
      for (const { trackId, on } of this.guestNotes.get(event.of) ?? []) give(trackId, { ...event, of: on })
      this.guestNotes.delete(event.of)
      return
    }
    const reached: { trackId: string; on: EffectNoteOn }[] = []
    for (const { track, route } of this.router.reachOf(portId, event.channel, event.key)) {
      if (this.transport.state === 'recording' && track.isArmed && this.setup.takeMode === 'fresh')
        this.stepBack(track)
      const shaped = shapeMessage(
        { type: 'noteOn', channel: event.channel, key: event.key, velocity: event.velocity },
        route,
      )
      if (shaped?.type !== 'noteOn' || !isMonitored(track)) continue
      const on = { ...event, key: shaped.key, velocity: shaped.velocity, channel: shaped.channel }
      reached.push({ trackId: track.id, on })
      give(track.id, on)
    }
    this.guestNotes.set(event, reached)
  }

  /** Ends what generators have sounding, on the tracks and in the take. */
  private endGenerated(atMs: Milliseconds): void {
    const { messages, events } = this.generators.end(this.scheduled.ticks)
    this.keepLater(messages, () => atMs)
    const guests = new Map<string, EffectEvent[]>()
    for (const routed of events) this.routeGuest(routed, guests)
    for (const trackId of guests.keys()) {
      const track = this.setup.tracks.find((candidate) => candidate.id === trackId)
      if (track && this.transport.state !== 'stopped') this.silence(track)
    }
    this.guestNotes.clear()
  }

  /** What generators play is kept, and seen, when it is due. */
  private deliverGenerated(nowMs: Milliseconds): void {
    if (this.dueMessages.length === 0) return
    const due = this.dueMessages
      .filter((message) => message.timeMs <= nowMs)
      .sort((a, b) => a.timeMs - b.timeMs)
    if (due.length === 0) return
    this.dueMessages = this.dueMessages.filter((message) => message.timeMs > nowMs)
    for (const { portId, channel, key, velocity, timeMs } of due) {
      const status = (velocity > 0 ? 0x90 : 0x80) | (channel - 1)
      this.capture.keep({ portId, timeMs, status, data1: key, data2: velocity || 64 }, () =>
        this.placeToRemember(timeMs),
      )
      const reached = this.router.reachOf(portId, channel, key)
      this.noteActivity(
        { portId, timeMs, status, data1: key, data2: velocity },
        reached.map(({ track }) => track.id),
      )
    }
  }

  private scheduleTrack(
    track: EngineTrack,
    { pass, toTicks }: PassWindow,
    guests: readonly EffectEvent[],
  ): void {
    const content = this.contents.get(track.id) ?? emptyContent
    const playback = this.playback.get(track.id)
    if (!playback) return
    playback.pass = pass
    while (
      playback.controllerIndex < content.controllers.length &&
      content.controllers[playback.controllerIndex]!.tick < toTicks
    ) {
      const event = content.controllers[playback.controllerIndex++]!
      this.sendController(track, event, this.timeline!.msAt({ pass, ticks: event.tick }) + track.offsetMs)
    }
    playback.run.advance(toTicks, guests)
  }

  /** A note-on is handed over only when the track is heard; a note-off only when its note-on was. */
  private scheduleEvent(trackId: string, event: EffectEvent): void {
    const track = this.setup.tracks.find((candidate) => candidate.id === trackId)
    const playback = this.playback.get(trackId)
    if (!track || !playback || !this.timeline) return
    const atMs = this.timeline.msAt({ pass: playback.pass, ticks: event.tick }) + track.offsetMs
    if (event.type === 'control') this.sound(track, atMs, 0xb0, event.number, event.value, event.channel)
    else if (event.type === 'on') {
      if (!track.isAudible) return
      playback.open.add(event)
      this.sound(track, atMs, 0x90, event.key, event.velocity, event.channel)
    } else if (playback.open.delete(event.of))
      this.sound(track, atMs, 0x80, event.of.key, 64, event.of.channel)
  }

  /**
   * One message of a track to its instrument and to the port it sends to.
   *
   * @param atMs null: at once
   */
  private sound(
    track: EngineTrack,
    atMs: Milliseconds | null,
    status: number,
    data1: number,
    data2: number,
    ownChannel?: number,
  ): void {
    if (track.hasSound) {
      const atSeconds = atMs === null ? 0 : this.audioSeconds(atMs)
      if (atSeconds !== null)
        this.commands.push({ atSeconds, synthChannel: track.synthChannel, status, data1, data2 })
    }
    if (track.sendTo && !this.ringIds.has(track.id)) {
      const dealt = ownChannel !== undefined && hasAddressEffect(track) ? ownChannel : track.channel
      const nibble = (track.sendTo.channel ?? dealt) - 1
      const hasOneByte = status === 0xc0 || status === 0xd0
      const bytes = hasOneByte ? [status | nibble, data1] : [status | nibble, data1, data2]
      this.sender.add(track.id, track.sendTo.portId, atMs ?? this.world.nowMs(), bytes)
    }
  }

  private sendController(track: EngineTrack, event: ControllerEvent, atMs: Milliseconds | null): void {
    if (event.kind === 'program') return
    const [status, data1, data2] = channelMessageBytes(controllerMessage(event, 1))
    this.sound(track, atMs, status!, data1!, data2 ?? 0)
  }

  // ── live ──

  /** One event of a source: kept, routed, made to sound at once. */
  private input(event: SourceEvent): void {
    if (isClockStatus(event.status)) {
      if (event.portId === this.setup.clockFrom)
        this.follower.receive(event.status, event.data1, event.data2, event.timeMs)
      return
    }
    const message = parseChannelMessage(event.status, event.data1, event.data2)
    if (!message) return
    const passed = this.rateGuard.pass(event.portId, this.world.nowMs())
    if (passed === 'dropped') return
    if (passed === 'shut') {
      this.releaseHeld((held) => held.portId === event.portId)
      this.world.toWindow({ type: 'portShut', portId: event.portId })
      return
    }
    if (message.type === 'noteOn') this.startWithFirstNote(event)
    this.capture.keep(event, () => this.placeToRemember(event.timeMs))
    const reached = this.router.reachOf(event.portId, message.channel, keyOf(message))
    if (message.type === 'noteOn' || message.type === 'noteOff') this.inputNote(event, message, reached)
    else
      for (const { track, route } of reached) {
        const shaped = shapeMessage(message, route)
        if (!shaped || !isMonitored(track)) continue
        const [status, data1, data2] = channelMessageBytes(shaped)
        if (shaped.type !== 'program') this.sound(track, null, status! & 0xf0, data1!, data2 ?? 0)
      }
  }

  /** The effects at work between a source and the tracks. */
  private sourceSlots(portId: string, channel: number): readonly EffectSlot[] {
    const { sourceChains } = this.setup
    if (sourceChains.length === 0) return []
    const chain =
      sourceChains.find((each) => each.portId === portId && each.channel === channel) ??
      sourceChains.find((each) => each.portId === portId && each.channel === null)
    return chain?.slots ?? []
  }

  private noteActivity(event: SourceEvent, trackIds: readonly string[]): void {
    const isOn = (event.status & 0xf0) === 0x90 && event.data2 > 0
    const place = this.transport.state === 'recording' ? this.placeAt(event.timeMs) : null
    this.activity.push({
      portId: event.portId,
      channel: (event.status & 0x0f) + 1,
      key: event.data1,
      velocity: isOn ? event.data2 : 0,
      isOn,
      timeMs: event.timeMs,
      ticks: place && Math.round(place.ticks),
      pass: place?.pass ?? 0,
      trackIds,
    })
  }

  private inputNote(
    event: SourceEvent,
    message: Extract<ChannelMessage, { type: 'noteOn' | 'noteOff' }>,
    reached: readonly Reach<EngineTrack>[],
  ): void {
    const isOn = message.type === 'noteOn'
    const heldAddress = `${event.portId} ${message.channel} ${message.key}`
    const held = this.heldKeys.get(heldAddress)
    this.noteActivity(
      event,
      reached.map(({ track }) => track.id),
    )
    // A key is released where it was pressed, also when the route has changed in between.
    if (held) this.endHeld(held, event.timeMs)
    this.heldKeys.delete(heldAddress)
    if (!isOn) return
    const slots = this.sourceSlots(event.portId, message.channel)
    if (activeSlots(slots).length > 0) {
      this.heldKeys.set(heldAddress, { event, reached: [], throughEffects: true })
      const id = sourceChainId(event.portId, message.channel)
      this.live.play(id, slots, message, this.liveTicksAtMs(event.timeMs))
      return
    }
    const sounding = this.pressOn(reached, message, event.timeMs)
    this.heldKeys.set(heldAddress, { event, reached: sounding, throughEffects: false })
  }

  /** A note goes down on every track it reaches. */
  private pressOn(
    reached: readonly Reach<EngineTrack>[],
    message: Extract<ChannelMessage, { type: 'noteOn' }>,
    timeMs: Milliseconds,
  ): HeldKey['reached'] {
    const sounding: HeldKey['reached'][number][] = []
    for (const { track, route } of reached) {
      const shaped = shapeMessage(message, route)
      if (shaped?.type !== 'noteOn') continue
      if (this.transport.state === 'recording' && track.isArmed && this.setup.takeMode === 'fresh')
        this.stepBack(track)
      sounding.push({ trackId: track.id, shaped })
      if (isMonitored(track)) this.soundLive(track, timeMs, shaped.key, shaped.velocity, shaped.channel)
    }
    return sounding
  }

  /** What effects make of live notes: those of a source go on to the tracks, those of a track sound. */
  private comeOut(id: string, event: EffectEvent, isAtOnce: boolean): void {
    const timeMs = isAtOnce ? null : this.liveMsAtTicks(event.tick)
    const source = sourceOfChain(id)
    if (source === null) {
      const track = this.setup.tracks.find((candidate) => candidate.id === id)
      if (!track || (event.type === 'on' && !track.isAudible)) return
      const atMs = timeMs === null ? null : timeMs + liveEffectDelayMs
      if (event.type === 'control') this.sound(track, atMs, 0xb0, event.number, event.value, event.channel)
      else if (event.type === 'on') this.sound(track, atMs, 0x90, event.key, event.velocity, event.channel)
      else this.sound(track, atMs, 0x80, event.of.key, 64, event.of.channel)
      return
    }
    const soundMs = timeMs ?? this.world.nowMs()
    if (event.type === 'control') {
      for (const { track } of this.router.reachOf(source.portId, event.channel, null))
        if (isMonitored(track)) this.sound(track, timeMs, 0xb0, event.number, event.value, event.channel)
    } else if (event.type === 'on') {
      const { key, velocity, channel } = event
      const reached = this.router.reachOf(source.portId, channel, key)
      this.routedNotes.set(event, this.pressOn(reached, { type: 'noteOn', key, velocity, channel }, soundMs))
    } else {
      this.liftFrom(this.routedNotes.get(event.of) ?? [], soundMs)
      this.routedNotes.delete(event.of)
    }
  }

  private endHeld(held: HeldKey, timeMs: Milliseconds, onlyTrackId?: string): void {
    if (held.throughEffects) {
      if (onlyTrackId !== undefined) return
      const { portId, status, data1 } = held.event
      const channel = (status & 0x0f) + 1
      const slots = this.sourceSlots(portId, channel)
      const stroke = { key: data1, velocity: 0, channel }
      this.live.play(sourceChainId(portId, channel), slots, stroke, this.liveTicksAtMs(timeMs))
    } else this.liftFrom(held.reached, timeMs, onlyTrackId)
  }

  private liftFrom(reached: HeldKey['reached'], timeMs: Milliseconds, onlyTrackId?: string): void {
    for (const { trackId, shaped } of reached) {
      if (onlyTrackId !== undefined && trackId !== onlyTrackId) continue
      const track = this.setup.tracks.find((candidate) => candidate.id === trackId)
      if (track && 'key' in shaped) this.soundLive(track, timeMs, shaped.key, 0, shaped.channel)
    }
  }

  /** The music that was there before gives way to whoever plays now. */
  private stepBack(track: EngineTrack): void {
    if (this.steppedBack.has(track.id)) return
    this.steppedBack.add(track.id)
    const playback = this.playback.get(track.id)
    if (!playback) return
    if (playback.open.size > 0) this.silence(track)
    playback.run = this.runOf(track, [], this.scheduled.ticks)
  }

  private startWithFirstNote(event: SourceEvent): void {
    const order = this.waitingOrder
    if (!order || this.transport.state !== 'waiting' || this.transport.waitsFor !== 'first note') return
    this.waitingOrder = null
    this.beginRecording({ ...order, fromTicks: order.startTicks }, event.timeMs)
  }

  private placeToRemember(timeMs: Milliseconds): ClockPoint | null {
    if (this.transport.state !== 'playing' || !this.timeline) return null
    return { timeMs, ticks: Math.max(0, Math.round(this.timeline.placeAt(timeMs).ticks)) }
  }

  private soundLive(
    track: EngineTrack,
    timeMs: Milliseconds,
    key: number,
    velocity: number,
    channel: number,
  ): void {
    if (velocity > 0 && !track.isAudible) return
    if (activeSlots(track.effects).length > 0)
      this.live.play(track.id, track.effects, { key, velocity, channel }, this.liveTicksAtMs(timeMs))
    else {
      const isLater = timeMs > this.world.nowMs() + 1
      this.sound(track, isLater ? timeMs : null, velocity > 0 ? 0x90 : 0x80, key, velocity, channel)
    }
  }

  private advanceLive(nowMs: Milliseconds): void {
    this.live.advance(Math.floor(this.liveTicksAtMs(nowMs)))
  }

  /** Live effects run on the piece's time while the transport runs, else on a free clock at the first tempo. */
  private liveTicksAtMs(timeMs: Milliseconds): Ticks {
    return this.timeline
      ? this.timeline.runningTicksAt(timeMs)
      : this.tempoMap.ticksAt(timeMs - this.freeStartMs)
  }

  private liveMsAtTicks(tick: Ticks): Milliseconds {
    return this.timeline ? this.timeline.msAtRunning(tick) : this.freeStartMs + this.tempoMap.msAt(tick)
  }

  private audition(trackId: string, key: number, velocity: number): void {
    const track = this.setup.tracks.find((candidate) => candidate.id === trackId)
    if (!track) return
    const nowMs = this.world.nowMs()
    this.sound(track, nowMs + 10, 0x90, key, velocity)
    this.sound(track, nowMs + 360, 0x80, key, 64)
  }

  // ── silence ──

  private panic(): void {
    this.releaseHeld(() => true)
    this.silenceAll()
    if (this.transport.state !== 'stopped') this.stop()
  }

  private releaseHeld(which: (event: SourceEvent) => boolean, atMs = this.world.nowMs()): void {
    for (const { event } of [...this.heldKeys.values()]) {
      if (!which(event)) continue
      const off = { ...event, timeMs: atMs, status: 0x80 | (event.status & 0x0f), data2: 64 }
      this.capture.keep(off)
      const message = parseChannelMessage(off.status, off.data1, off.data2)
      if (message?.type === 'noteOff')
        this.inputNote(off, message, this.router.reachOf(off.portId, message.channel, message.key))
    }
  }

  private releaseHeldOn(track: EngineTrack): void {
    const nowMs = this.world.nowMs()
    for (const held of this.heldKeys.values()) this.endHeld(held, nowMs, track.id)
    for (const reached of this.routedNotes.values()) this.liftFrom(reached, nowMs, track.id)
  }

  private silence(track: EngineTrack): void {
    this.flushCommands()
    this.world.toSynth({ type: 'cancel', synthChannels: [track.synthChannel] })
    this.sender.silence(this.world.nowMs(), track.id)
    this.playback.get(track.id)?.open.clear()
  }

  private silenceAll(): void {
    this.commands = []
    this.world.toSynth({ type: 'cancel' })
    this.sender.silence(this.world.nowMs())
    this.live.clear()
    this.routedNotes.clear()
    for (const playback of this.playback.values()) playback.open.clear()
  }

  // ── reports ──

  private reportActivity(nowMs: Milliseconds): void {
    this.lastActivityMs = nowMs
    const { listenedNotes, streamCounts } = this.capture
    const state = `${listenedNotes} ${streamCounts.length}`
    if (this.activity.length === 0 && state === this.reported) return
    this.reported = state
    const streams = streamCounts.map((stream) => ({ ...stream }))
    this.world.toWindow({ type: 'activity', events: this.activity, listenedNotes, streams })
    this.activity = []
  }

  private flushCommands(): void {
    if (this.commands.length === 0) return
    this.world.toSynth({ type: 'commands', rows: packCommands(this.commands) })
    this.commands = []
  }

  private placeAt(timeMs: Milliseconds): Place {
    if (this.timeline) return this.timeline.placeAt(timeMs)
    return { pass: 0, ticks: 'ticks' in this.transport ? this.transport.ticks : 0 }
  }

  /** Audio time at which something must begin to be heard at a moment; null while there is no sound. */
  private audioSeconds(timeMs: Milliseconds): number | null {
    if (!this.clock) return null
    return this.clock.contextSeconds + (timeMs - this.clock.epochMs) / 1000
  }
}

function isMonitored(track: EngineTrack): boolean {
  return track.monitor === 'always' || (track.monitor === 'armed' && track.isArmed)
}

function isSame(a: unknown, b: unknown): boolean {
  return JSON.stringify(a) === JSON.stringify(b)
}

function barStart(meterMap: MeterMap, ticks: Ticks): Ticks {
  return meterMap.measureAt(ticks).startTicks
}

const allChannels = Array.from({ length: 16 }, (_, index) => index + 1)

const sourcePrefix = 'source '

function sourceChainId(portId: string, channel: number): string {
  return `${sourcePrefix}${channel} ${portId}`
}

function sourceOfChain(id: string): { readonly portId: string } | null {
  if (!id.startsWith(sourcePrefix)) return null
  const rest = id.slice(sourcePrefix.length)
  return { portId: rest.slice(rest.indexOf(' ') + 1) }
}

function addressOf({ portId, channel }: { portId: string; channel: number | null }): string {
  return `${channel} ${portId}`
}

function hasAddressEffect(track: EngineTrack): boolean {
  return activeSlots(track.effects).some((slot) => effectOf(slot.kind).group === 'address')
}
