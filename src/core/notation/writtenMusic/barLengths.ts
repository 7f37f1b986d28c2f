import type { Meter } from '../../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { WrittenMusic } from './writtenMusic'

/** How long a bar is, and what its meter is where that is another length. */
export interface BarLength extends Meter {
  readonly lengthTicks: Ticks
  readonly writtenIn?: Meter
}

const wholeTicks: Ticks = TICKS_PER_QUARTER * 4
const finest = 64

/**
 * How long each bar is: as long as what it holds, and where that is only a rest for the whole bar, as long as its meter says. So a pickup
 * is short, and a bar that a repeat divides is two.
 */
export function barLengths({ bars, parts }: Pick<WrittenMusic, 'bars' | 'parts'>): BarLength[] {
  return bars.map(({ meter }, index): BarLength => {
    let heldTicks = 0
    for (const { entries } of parts)
      for (const { startTicks, durationTicks, content } of entries[index] ?? [])
        if (content.kind === 'chord' || !content.isWholeMeasure)
          heldTicks = Math.max(heldTicks, startTicks + durationTicks)
    const usual = meter ?? { numerator: 4, denominator: 4 }
    const usualTicks = (wholeTicks * usual.numerator) / usual.denominator
    // Lengths that were rounded are those of the meter.
    if (heldTicks === 0 || Math.abs(heldTicks - usualTicks) <= nearTicks)
      return { ...usual, lengthTicks: usualTicks }
    const own = meterOf(heldTicks, usual.denominator)
    const lengthTicks = (wholeTicks * own.numerator) / own.denominator
    return meter ? { ...own, lengthTicks, writtenIn: meter } : { ...own, lengthTicks }
  })
}

const nearTicks: Ticks = 8

/** The meter of a length: in the given unit where it goes into it, else in a finer one, of which the last is begun. */
function meterOf(lengthTicks: Ticks, denominator: number): Meter {
  for (let unit = denominator; unit <= finest; unit *= 2) {
    const numerator = (lengthTicks * unit) / wholeTicks
    const rounded = Math.round(numerator)
    if (Math.abs(numerator - rounded) * (wholeTicks / unit) <= nearTicks && rounded >= 1 && rounded <= 64)
      return { numerator: rounded, denominator: unit }
  }
  for (let unit = finest; unit > 1; unit /= 2) {
    const numerator = Math.ceil((lengthTicks * unit) / wholeTicks)
    if (numerator <= 64) return { numerator: Math.max(1, numerator), denominator: unit }
  }
  return { numerator: 64, denominator: 1 }
}
