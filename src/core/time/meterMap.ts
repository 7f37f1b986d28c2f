import { TICKS_PER_QUARTER, type Ticks } from './units'

/** One meter from a tick on: 6/8 is `{ numerator: 6, denominator: 8 }`. */
export interface MeterChange extends Meter {
  readonly tick: Ticks
  /** Of bars that are shorter or longer than their meter, such as a pickup: the meter they are written in. */
  readonly writtenIn?: Meter | undefined
}

export interface Meter {
  readonly numerator: number
  readonly denominator: number
}

export interface Measure {
  /** Counted from 0; the number shown is one more. */
  readonly index: number
  readonly startTicks: Ticks
  readonly lengthTicks: Ticks
  readonly numerator: number
  readonly denominator: number
  /** The meter it is written in, where it is shorter or longer than that. */
  readonly writtenIn?: Meter | undefined
}

export interface BarPosition {
  /** From 1. */
  readonly bar: number
  /** From 1. */
  readonly beat: number
  /** Ticks after the beat. */
  readonly ticks: Ticks
}

interface MeterSegment {
  readonly startTicks: Ticks
  readonly startBar: number
  readonly numerator: number
  readonly denominator: number
  readonly writtenIn: Meter | undefined
  readonly barTicks: Ticks
}

/**
 * Bars and beats along a piece. A meter change inside a bar takes effect at the next bar line, so that every
 * bar has one length. Before tick 0 (count-in) bars run backwards at the first meter.
 */
export class MeterMap {
  private readonly segments: MeterSegment[]

  constructor(changes: readonly MeterChange[]) {
    const sorted = [...changes].sort((a, b) => a.tick - b.tick)
    const segments: MeterSegment[] = []
    const push = (startTicks: Ticks, startBar: number, meter: Omit<MeterChange, 'tick'>) => {
      const { numerator, denominator, writtenIn } = meter
      const segment = {
        startTicks,
        startBar,
        numerator,
        denominator,
        writtenIn,
        barTicks: (TICKS_PER_QUARTER * 4 * numerator) / denominator,
      }
      if (segments.at(-1)?.startTicks === startTicks) segments[segments.length - 1] = segment
      else segments.push(segment)
    }
    push(0, 0, sorted[0] ?? { numerator: 4, denominator: 4 })
    for (const change of sorted) {
      const last = segments[segments.length - 1]!
      const bars = Math.ceil(Math.max(0, change.tick - last.startTicks) / last.barTicks)
      push(last.startTicks + bars * last.barTicks, last.startBar + bars, change)
    }
    this.segments = segments
  }

  measureAt(tick: Ticks): Measure {
    const segment = this.segmentAt(tick)
    const bars = Math.floor((tick - segment.startTicks) / segment.barTicks)
    return this.build(segment, bars)
  }

  /** Where the bar begins that holds a place. */
  barStartTicks(tick: Ticks): Ticks {
    const { startTicks, barTicks } = this.segmentAt(tick)
    return startTicks + Math.floor((tick - startTicks) / barTicks) * barTicks
  }

  measure(index: number): Measure {
    let segment = this.segments[0]!
    for (const candidate of this.segments) if (candidate.startBar <= index) segment = candidate
    return this.build(segment, index - segment.startBar)
  }

  /** All bars from the beginning up to and including the one that holds the tick before `endTicks`. */
  measuresUntil(endTicks: Ticks): Measure[] {
    const measures: Measure[] = []
    for (const [index, segment] of this.segments.entries()) {
      const nextStart = this.segments[index + 1]?.startTicks ?? Number.POSITIVE_INFINITY
      const untilTicks = Math.min(nextStart, Math.max(endTicks, 1))
      for (let bars = 0; segment.startTicks + bars * segment.barTicks < untilTicks; bars++)
        measures.push(this.build(segment, bars))
    }
    return measures
  }

  position(tick: Ticks): BarPosition {
    const measure = this.measureAt(tick)
    const beatTicks = (TICKS_PER_QUARTER * 4) / measure.denominator
    const inBar = tick - measure.startTicks
    const beat = Math.floor(inBar / beatTicks)
    return { bar: measure.index + 1, beat: beat + 1, ticks: inBar - beat * beatTicks }
  }

  private segmentAt(tick: Ticks): MeterSegment {
    let segment = this.segments[0]!
    for (const candidate of this.segments) if (candidate.startTicks <= tick) segment = candidate
    return segment
  }

  private build(segment: MeterSegment, bars: number): Measure {
    return {
      index: segment.startBar + bars,
      startTicks: segment.startTicks + bars * segment.barTicks,
      lengthTicks: segment.barTicks,
      numerator: segment.numerator,
      denominator: segment.denominator,
      ...(segment.writtenIn && { writtenIn: segment.writtenIn }),
    }
  }
}

/** Meters counted in dotted values: 6/8, 9/8, 12/8 and their like in sixteenths. */
export function isCompound(of: Meter & { readonly writtenIn?: Meter | undefined }): boolean {
  const meter = of.writtenIn ?? of
  return meter.denominator >= 8 && meter.numerator > 3 && meter.numerator % 3 === 0
}

/** Ticks of the unit that is counted: a dotted quarter in 6/8, 9/8, 12/8; otherwise the denominator's value. */
export function beatUnitTicks(of: Meter & { readonly writtenIn?: Meter | undefined }): Ticks {
  const meter = of.writtenIn ?? of
  const unit = (TICKS_PER_QUARTER * 4) / meter.denominator
  return isCompound(meter) ? unit * 3 : unit
}
