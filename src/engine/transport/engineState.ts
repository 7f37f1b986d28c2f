import type { Milliseconds, Ticks } from '@/core/time/units'
import type { ToEngine, TransportState } from '../protocol'
import type { Place, RunningPlan, Timeline } from './timeline'

/** What is to be recorded, as the window asked for it. */
export type RecordOrder = Extract<ToEngine, { type: 'record' }>

/** How a running piece lies in time. */
export interface Run {
  readonly plan: RunningPlan
  readonly timeline: Timeline
}

/** The take that is being recorded: it ends by itself at `endTicks`, where there is such a place. */
export interface TakeStretch {
  readonly endTicks: Ticks | null
}

export interface Resting {
  readonly doing: 'resting'
  readonly ticks: Ticks
}

/** Ready to record: for the first note, or for the followed clock to start. */
export interface Waiting {
  readonly doing: 'waiting'
  readonly waitsFor: 'first note' | 'clock'
  readonly order: RecordOrder
}

export interface Playing extends Run {
  readonly doing: 'playing'
  /** The music ends here; null while it runs on. */
  readonly untilTicks: Ticks | null
}

/** From the press of record to the moment of the first tick. Who plays already is in the take. */
export interface CountingIn extends Run {
  readonly doing: 'counting in'
  readonly take: TakeStretch
}

export interface Recording extends Run {
  readonly doing: 'recording'
  readonly take: TakeStretch
}

/** Along another's clock; `take` where it is recorded. */
export interface Following extends Run {
  readonly doing: 'following'
  readonly take: TakeStretch | null
}

export type Running = Playing | CountingIn | Recording | Following

/** What the engine is doing: always exactly one of these. */
export type EngineState = Resting | Waiting | Running

/** What is to run, before it has a place in time. */
export type ToRun = {
  [Kind in Running['doing']]: Omit<Extract<Running, { doing: Kind }>, keyof Run>
}[Running['doing']]

export function runOf(state: EngineState): Run | null {
  return state.doing === 'resting' || state.doing === 'waiting' ? null : state
}

/** The take that goes on, or null. */
export function takeOf(state: EngineState): TakeStretch | null {
  return 'take' in state ? state.take : null
}

/** Where the piece is at a moment; while it does not run, where it would begin. */
export function placeAt(state: EngineState, timeMs: Milliseconds): Place {
  const run = runOf(state)
  if (run) return run.timeline.placeAt(timeMs)
  return { pass: 0, ticks: state.doing === 'waiting' ? state.order.fromTicks : (state as Resting).ticks }
}

/** The state once a moment has come: a count-in is over. */
export function stateAt(state: EngineState, nowMs: Milliseconds): EngineState {
  return state.doing === 'counting in' && nowMs >= state.plan.startedAtMs
    ? { ...state, doing: 'recording' }
    : state
}

/** What the window is told of a state. */
export function transportOf(state: EngineState): TransportState {
  switch (state.doing) {
    case 'resting':
      return { state: 'stopped', ticks: state.ticks }
    case 'waiting':
      return { state: 'waiting', ticks: state.order.fromTicks, waitsFor: state.waitsFor }
    case 'playing':
    case 'counting in':
    case 'recording':
    case 'following':
      return { state: takeOf(state) ? 'recording' : 'playing', ...state.plan }
  }
}
