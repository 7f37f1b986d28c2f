import { ClockFollower, type FollowedClock } from '@/core/midi/clock'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'
import type { FromEngine, SourceEvent } from '../protocol'
import type { EngineNow } from './engineNow'
import { runOf } from './engineState'
import type { RecordingDesk } from './recordingDesk'
import type { ClockLine } from './timeline'
import type { Transport } from './transport'

/** Plays and records along another's clock: starts with it, runs along its line, stops with it. */
export class ClockFollowing {
  private follower = new ClockFollower()
  /** This run of the clock was joined already, or something else was going on: it is joined again after it has stopped. */
  private isLetBy = false
  private toldTempo = ''

  constructor(
    private readonly now: EngineNow,
    private readonly transport: Transport,
    private readonly desk: RecordingDesk,
    private readonly toWindow: (message: FromEngine) => void,
  ) {}

  receive({ portId, status, data1, data2, timeMs }: SourceEvent): void {
    if (portId === this.now.setup.clockFrom) this.follower.receive(status, data1, data2, timeMs)
  }

  /** Another clock, or none, is to be followed from now on. */
  forget(): void {
    const { state } = this.now
    this.follower = new ClockFollower()
    this.isLetBy = false
    const isBound = state.doing === 'following' || (state.doing === 'waiting' && state.waitsFor === 'clock')
    if (isBound) this.transport.stop(this.now.nowMs())
  }

  advance(nowMs: Milliseconds): void {
    if (this.now.setup.clockFrom === null) return
    const clock = this.follower.at(nowMs)
    this.tell(clock)
    const { state } = this.now
    if (clock.state === 'stopped') {
      this.isLetBy = false
      if (state.doing === 'following') this.transport.finish(clock.ticks, nowMs)
      return
    }
    const line = { ticks: clock.ticks, timeMs: clock.timeMs, tempoBpm: clock.tempoBpm }
    if (state.doing === 'following') this.moveAlong(line, nowMs)
    else if (runOf(state)) this.isLetBy = true
    else if (!this.isLetBy || state.doing === 'waiting') this.join(line, nowMs)
  }

  private join(line: ClockLine, nowMs: Milliseconds): void {
    const { state, context } = this.now
    const order = state.doing === 'waiting' ? state.order : null
    const msPerTick = 60_000 / line.tempoBpm / TICKS_PER_QUARTER
    const fromTicks = Math.max(0, Math.round(line.ticks + (nowMs - line.timeMs) / msPerTick))
    // The take begins where the clock began, so that nothing played since is left out.
    const beganTicks = Math.max(0, Math.round(line.ticks))
    this.isLetBy = true
    this.transport.start(
      { doing: 'following', take: order && { endTicks: order.endTicks } },
      { fromTicks, startedAtMs: nowMs, loop: null, line },
    )
    if (order) {
      const { startTicks } = context.meterMap.measureAt(beganTicks)
      this.desk.beginTake({ ...order, startTicks }, false)
    }
    this.transport.keepClockPoint(nowMs)
  }

  private moveAlong(line: ClockLine, nowMs: Milliseconds): void {
    const run = runOf(this.now.state)
    const old = run?.plan.line
    if (!run || !old || old.timeMs === line.timeMs) return
    this.transport.moveAlong({ ...run.plan, line })
    if (beatOf(old.ticks) === beatOf(line.ticks)) return
    this.transport.keepClockPoint(nowMs)
    this.transport.tell()
  }

  private tell({ state, tempoBpm }: FollowedClock): void {
    const shown = `${state} ${tempoBpm?.toFixed(2)}`
    if (shown === this.toldTempo) return
    this.toldTempo = shown
    this.toWindow({ type: 'followedClock', isRunning: state === 'running', tempoBpm })
  }
}

const beatOf = (ticks: Ticks) => Math.floor(ticks / TICKS_PER_QUARTER)
