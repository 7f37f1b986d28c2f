import { beatUnitTicks, isCompound } from '../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { type NoteValue, type NoteValueType, noteValueTypes } from './score'

const plainTicks = noteValueTypes.map((type) => ({ type, ticks: ticksOfValue(type) }))

/** How long a plain value lasts. */
export function ticksOfValue(type: NoteValueType): Ticks {
  return (TICKS_PER_QUARTER * 4) / 2 ** noteValueTypes.indexOf(type)
}

/** How long a value lasts, dots counted. */
export function ticksOfNoteValue({ type, dots }: NoteValue): Ticks {
  return ticksOfValue(type) * (2 - 0.5 ** dots)
}

/** The plain or dotted value that lasts exactly this long; undefined when two or more tied values are needed. */
export function noteValueOf(ticks: Ticks): NoteValue | undefined {
  for (const { type, ticks: plain } of plainTicks) {
    if (ticks === plain) return { type, dots: 0 }
    if (ticks * 2 === plain * 3) return { type, dots: 1 }
  }
  return undefined
}

/** Number of flags or beams of a value. */
export function flagCount(type: NoteValueType): number {
  return Math.max(0, noteValueTypes.indexOf(type) - 2)
}

export interface MeterFrame {
  readonly numerator: number
  readonly denominator: number
  readonly lengthTicks: Ticks
}

/**
 * Cuts a note or rest inside one measure into values that can be written, so that the beats stay visible: off-beat
 * notes are tied over the beat (except the syncopation eighth–quarter–eighth inside half a bar), and a bar of four is
 * never crossed in the middle from an off-beat. Rests are stricter: they show every beat they leave silent.
 *
 * Common practice, no source.
 *
 * @param start from the bar line
 * @param end from the bar line, later than `start`
 * @returns lengths in ticks that sum to `end − start`, each a plain or dotted value where the grid allows
 */
export function writableLengths(start: Ticks, end: Ticks, meter: MeterFrame, isRest: boolean): Ticks[] {
  const lengths: Ticks[] = []
  let position = start
  while (position < end) {
    const length = firstLength(position, end, meter, isRest)
    lengths.push(length)
    position += length
  }
  return lengths
}

function firstLength(start: Ticks, end: Ticks, meter: MeterFrame, isRest: boolean): Ticks {
  const beat = beatUnitTicks(meter)
  const whole = end - start
  if (isWritable(start, whole, meter, beat, isRest)) return whole
  const inBeat = start % beat
  const nextBeat = start - inBeat + beat
  if (inBeat !== 0 && end > nextBeat) return largestWithin(start, nextBeat, meter, beat, isRest)
  return largestWithin(start, end, meter, beat, isRest)
}

/** The longest writable first piece of [start, end), one that ends on a beat before one that does not. */
function largestWithin(start: Ticks, end: Ticks, meter: MeterFrame, beat: Ticks, isRest: boolean): Ticks {
  let best = 0
  let bestOnBeat = 0
  for (const { ticks: plain } of plainTicks)
    for (const length of [plain, (plain * 3) / 2]) {
      if (length > end - start || !isWritable(start, length, meter, beat, isRest)) continue
      if (length > best) best = length
      if ((start + length) % beat === 0 && length > bestOnBeat) bestOnBeat = length
    }
  // Nothing fits only where the grid is finer than any value: then the rest is given as it is.
  return bestOnBeat || best || end - start
}

function isWritable(start: Ticks, length: Ticks, meter: MeterFrame, beat: Ticks, isRest: boolean): boolean {
  const value = noteValueOf(length)
  if (!value) return false
  const end = start + length
  const inBeat = start % beat
  const crossesBeat = end > start - inBeat + beat
  const isDottedBeat = isCompound(meter)
  const hasMiddle = !isDottedBeat && meter.numerator === 4
  const middle = meter.lengthTicks / 2
  const crossesMiddle = hasMiddle && start < middle && end > middle && start !== 0
  if (isRest) {
    if (value.dots > 0 && !isDottedBeat) return false
    if (crossesMiddle) return false
    if (inBeat !== 0) {
      if (crossesBeat) return false
      // Inside a beat a rest begins at a multiple of itself, so that the halves of the beat show.
      return isDottedBeat
        ? value.dots === 0 && inBeat % (beat / 3) === 0
          ? length <= beat / 3
          : inBeat % length === 0
        : inBeat % length === 0
    }
    if (!crossesBeat) return isDottedBeat ? value.dots === 0 || length === beat : true
    return start % length === 0 && (hasMiddle || length === meter.lengthTicks || meter.numerator > 4)
  }
  if (inBeat === 0) {
    if (isDottedBeat && crossesBeat) return length % beat === 0
    if (crossesMiddle && length % beat !== 0) return false
    return true
  }
  if (!crossesBeat) return true
  const isSyncopation = !isDottedBeat && inBeat * 2 === beat && length === beat && !crossesMiddle
  return isSyncopation
}
