import type { MeterMap } from './meterMap'
import { TICKS_PER_QUARTER, type Ticks } from './units'

const ticksPerHundredth = TICKS_PER_QUARTER / 100

/** A place as bar, beat and hundredths of a quarter: `positionText(meterMap, 0)` is "1 · 1 · 00". */
export function positionText(meterMap: MeterMap, tick: Ticks): string {
  const { bar, beat, ticks } = meterMap.position(tick)
  return `${bar} · ${beat} · ${String(Math.floor(ticks / ticksPerHundredth)).padStart(2, '0')}`
}

/**
 * Reads a place: a bar alone, with a beat, with hundredths of a quarter; anything that is no digit parts them.
 *
 * @returns null when it is none, or the bar has no such beat
 *
 * @example parsePosition('2 · 3 · 50', meterMap)
 */
export function parsePosition(text: string, meterMap: MeterMap): Ticks | null {
  const numbers = text.match(/\d+/g)?.map(Number)
  if (!numbers || numbers.length > 3 || /-/.test(text)) return null
  const [bar, beat = 1, hundredths = 0] = numbers
  if (bar! < 1 || bar! > 1_000_000) return null
  const measure = meterMap.measure(bar! - 1)
  if (beat < 1 || beat > measure.numerator) return null
  const beatTicks = (TICKS_PER_QUARTER * 4) / measure.denominator
  return Math.round(measure.startTicks + (beat - 1) * beatTicks + hundredths * ticksPerHundredth)
}
