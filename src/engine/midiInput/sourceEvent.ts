import { isClockStatus } from '@/core/midi/clock'
import { dataByteCount } from '@/core/midi/message'
import type { Milliseconds } from '@/core/time/units'
import type { SourceEvent } from '../protocol'

/**
 * The border check of what a port or cable sends: a whole channel-voice message, or one of the clock.
 *
 * @param refuse gets what is no MIDI message, in words: a data byte above 127, a byte that is missing
 * @returns null for what is refused, and for system messages that nobody here reads
 */
export function readSourceEvent(
  portId: string,
  timeMs: Milliseconds,
  bytes: ArrayLike<number>,
  refuse: (reason: string) => void,
): SourceEvent | null {
  const status = bytes[0]
  if (status === undefined) return null
  if (status >= 0xf0 && !isClockStatus(status)) return null
  if (status < 0x80 || status > 0xff) {
    refuse(`it begins with ${status}, which is no status byte`)
    return null
  }
  const needed = status < 0xf0 ? dataByteCount(status) : status === 0xf2 ? 2 : 0
  if (bytes.length < 1 + needed) {
    refuse(`it has ${bytes.length} of ${1 + needed} bytes`)
    return null
  }
  for (let index = 1; index <= needed; index++)
    if (!(bytes[index]! >= 0 && bytes[index]! <= 127)) {
      refuse(`it has the data byte ${bytes[index]}; data bytes go up to 127`)
      return null
    }
  return {
    portId,
    timeMs,
    status,
    data1: needed > 0 ? bytes[1]! : 0,
    data2: needed > 1 ? bytes[2]! : 0,
  }
}
