import { clicksBetween } from '@/core/capture/click'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { FromEngine } from '../protocol'
import type { Capture } from './capture'
import type { ClockSender } from './clockSender'
import type { EngineStanding } from './engineNow'
import { type EngineState, stateAt, type ToRun, takeOf, transportOf } from './engineState'
import type { GeneratedNotes } from './generatedNotes'
import type { Metronome } from './metronome'
import { type PassWindow, type RunningPlan, Timeline } from './timeline'
import type { TrackPlayback } from './trackPlayback'

/** How far ahead of time notes are handed to the synthesiser. */
export const lookAheadMs: Milliseconds = 180
/** Time between a start command and the first sound: enough to hand over the first notes. */
export const leadMs: Milliseconds = 120

/** Those that play when the piece runs. */
export interface TransportParts {
  readonly playback: TrackPlayback
  readonly generated: GeneratedNotes
  readonly clockSender: ClockSender
  readonly metronome: Metronome
  readonly capture: Capture
}

export interface TransportEvents {
  toWindow(message: FromEngine): void
  /** Ends what sounds; `isSoundOff`: also what rings on. */
  silence(isSoundOff: boolean): void
  /** The piece begins to run: what players hold down is down in it, too. */
  started(): void
  /** Nothing runs any more: a tempo that waited for that comes into force. */
  finished(): void
  /** A new turn of the loop begins at `turnMs`. */
  turned(pass: number, turnMs: Milliseconds, nowMs: Milliseconds): void
}

/** Sets the piece going, ends it, and hands over what is due while it runs. It alone changes what the engine is doing. */
export class Transport {
  constructor(
    private readonly now: EngineStanding,
    private readonly parts: TransportParts,
    private readonly events: TransportEvents,
  ) {}

  /** Sets the piece going. What sounded before is ended. */
  start(what: ToRun, where: Omit<RunningPlan, 'tempos'>): void {
    this.events.silence(false)
    const { tempos, setup } = this.now
    const plan = { ...where, tempos }
    this.now.state = { ...what, plan, timeline: new Timeline(plan) }
    this.now.scheduled = { pass: 0, ticks: plan.fromTicks }
    this.parts.generated.clear()
    this.parts.playback.start()
    this.events.started()
    this.parts.clockSender.begin(setup.clockTo, plan.fromTicks, plan.startedAtMs)
    this.tell()
  }

  /** Nothing runs until what is waited for comes. */
  wait(state: Extract<EngineState, { doing: 'waiting' }>): void {
    this.events.silence(false)
    this.now.state = state
    this.tell()
  }

  /** The piece runs on along another line through time. */
  moveAlong(plan: RunningPlan): void {
    const { state } = this.now
    if (state.doing !== 'following') return
    this.now.state = { ...state, plan, timeline: new Timeline(plan) }
  }

  tell(): void {
    this.events.toWindow({ type: 'transport', transport: transportOf(this.now.state) })
  }

  /** @param atMs the moment on the sources' clock: what was played before it and arrives later still belongs to the take */
  stop(atMs: Milliseconds): void {
    const endMs = Math.min(atMs, this.now.nowMs())
    this.finish(this.now.placeAt(endMs).ticks, endMs)
  }

  /** @param isPlayedOut the music came to its end: what rings on is left to ring */
  finish(atTicks: Ticks, endMs: Milliseconds, isPlayedOut = false): void {
    const { state, setup } = this.now
    this.parts.generated.end(endMs)
    this.events.silence(!isPlayedOut)
    if (state.doing === 'following') this.keepClockPoint(endMs)
    if (state.doing !== 'resting') this.parts.clockSender.stop(setup.clockTo, this.now.nowMs())
    this.parts.playback.layers = null
    this.parts.playback.backToBase()
    this.now.state = { doing: 'resting', ticks: Math.max(0, Math.round(atTicks)) }
    this.tell()
    this.parts.capture.end(endMs)
    this.events.finished()
  }

  /** Where the followed clock is, for the take. */
  keepClockPoint(timeMs: Milliseconds): void {
    this.parts.capture.keepClockPoint({ timeMs, ticks: this.now.placeAt(timeMs).ticks })
  }

  /** Hands over everything up to the look-ahead. */
  advance(nowMs: Milliseconds): void {
    this.now.state = stateAt(this.now.state, nowMs)
    const { state, timeline } = this.now
    if (!timeline) return
    const untilTicks = state.doing === 'playing' ? state.untilTicks : null
    for (const window of timeline.windowsUntil(this.now.scheduled, nowMs + lookAheadMs)) {
      if (window.pass > this.now.scheduled.pass) this.turnLoop(window, timeline, nowMs)
      const toTicks = untilTicks === null ? window.toTicks : Math.min(window.toTicks, untilTicks)
      if (toTicks > window.fromTicks) this.handOver({ ...window, toTicks }, timeline)
      this.now.scheduled = { pass: window.pass, ticks: Math.max(toTicks, window.fromTicks) }
    }
    const isLooping = state.doing === 'playing' && state.plan.loop !== null
    if (untilTicks !== null && !isLooping && this.now.placeAt(nowMs).ticks >= untilTicks)
      this.finish(0, nowMs, true)
  }

  private handOver(window: PassWindow, timeline: Timeline): void {
    const { setup, context, state } = this.now
    const { playback, generated, metronome, clockSender } = this.parts
    const guests = generated.window(window)
    for (const track of setup.tracks) playback.window(track, window, guests.get(track.id) ?? [])
    if (setup.click.isOn && takeOf(state))
      for (const stroke of clicksBetween(context.meterMap, window.fromTicks, window.toTicks, setup.click))
        metronome.strike(timeline.msAt({ pass: window.pass, ticks: stroke.ticks }), stroke)
    clockSender.window(setup.clockTo, window, timeline)
  }

  /** A new turn of the loop: what still sounds ends with the last one, and everything is read from the loop's start. */
  private turnLoop({ pass, fromTicks }: PassWindow, timeline: Timeline, nowMs: Milliseconds): void {
    const turnMs = timeline.msAt({ pass, ticks: fromTicks })
    this.parts.generated.turn(turnMs)
    this.now.scheduled = { pass, ticks: fromTicks }
    this.parts.playback.endAt(turnMs)
    this.events.turned(pass, turnMs, nowMs)
    this.parts.playback.rewindAll()
  }
}
