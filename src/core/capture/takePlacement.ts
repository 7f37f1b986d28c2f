import type { ChainPlan } from '../effects/chainRun'
import type { InputAddress } from '../routing/address'
import type { MeterMap } from '../time/meterMap'
import type { TempoMap } from '../time/tempoMap'
import type { Milliseconds, Ticks } from '../time/units'

/** How a take lies in the piece. */
export interface TakePlacement {
  readonly takeSerial: number
  readonly startTicks: Ticks
  /** The moment of `startTicks` on the sources' clock. */
  readonly anchorMs: Milliseconds
  /** The moment recording stopped; keys still down end here. */
  readonly endMs: Milliseconds
  readonly tempoMap: TempoMap
  /** Notes from here on are outside the stretch that was recorded; undefined or null: it was open. */
  readonly endTicks?: Ticks | null
  /** Notes up to this much before the start belong to its downbeat. */
  readonly earlyMs: Milliseconds
  readonly compensations?: readonly Compensation[]
  /** Moments and positions of a followed clock, in order; none where the piece's own tempo was played to. */
  readonly clockPoints?: readonly ClockPoint[]
  /** Effects that sources play through; a channel of null holds for the whole port. */
  readonly chains?: readonly SourceChain[]
  /** For effects that go by the bar. */
  readonly meterMap?: MeterMap
}

/** The effects between a source and the tracks. */
export interface SourceChain extends InputAddress, ChainPlan {}

/** How late the events of an address arrive; a channel of null holds for the whole port. */
export interface Compensation extends InputAddress {
  readonly compensationMs: Milliseconds
}

export interface ClockPoint {
  readonly timeMs: Milliseconds
  readonly ticks: Ticks
}

/** The exact position of a moment of a take, along its tempi or along the clock it followed. */
export function takeTicksAt(
  take: Pick<TakePlacement, 'startTicks' | 'anchorMs' | 'tempoMap' | 'clockPoints'>,
  timeMs: Milliseconds,
): Ticks {
  const points = take.clockPoints ?? []
  if (points.length >= 2) {
    let index = 1
    while (index < points.length - 1 && points[index]!.timeMs < timeMs) index++
    const from = points[index - 1]!
    const to = points[index]!
    return from.ticks + ((timeMs - from.timeMs) / (to.timeMs - from.timeMs)) * (to.ticks - from.ticks)
  }
  return take.tempoMap.ticksAt(take.tempoMap.msAt(take.startTicks) + timeMs - take.anchorMs)
}

/** What is said of an address, or of its whole port (channel null); the address comes first. */
export function saidOf<Said extends InputAddress>(
  list: readonly Said[],
  portId: string,
  channel: number,
): Said | undefined {
  return (
    list.find((each) => each.portId === portId && each.channel === channel) ??
    list.find((each) => each.portId === portId && each.channel === null)
  )
}
