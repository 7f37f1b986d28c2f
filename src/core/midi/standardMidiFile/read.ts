import { dataByteCount, parseChannelMessage } from '../message'
import {
  largestMidiFileBytes,
  type MidiFile,
  MidiFileError,
  type MidiFileEvent,
  type MidiFileTrack,
  type TextEventType,
  textEventNumbers,
} from './model'

/**
 * Reads a Standard MIDI File (formats 0 and 1, metrical division).
 *
 * Source of the layout: Standard MIDI Files 1.0, MIDI Manufacturers Association.
 *
 * @param mostEvents a file with more is refused while it is read, before it costs memory
 * @throws MidiFileError for anything that is not a whole, readable file, with what and where.
 */
export function readMidiFile(bytes: Uint8Array, mostEvents = Number.POSITIVE_INFINITY): MidiFile {
  if (bytes.length === 0) throw new MidiFileError('The file is empty: it has zero bytes', 0)
  if (bytes.length > largestMidiFileBytes)
    throw new MidiFileError(
      `The file is ${(bytes.length / 1048576).toFixed(1)} MB; MIDI files up to ${largestMidiFileBytes / 1048576} MB are read`,
      largestMidiFileBytes,
    )
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 4 || chunkName(bytes, 0) !== 'MThd')
    throw new MidiFileError('This is not a Standard MIDI File: it does not begin with the letters MThd', 0)
  if (bytes.length < 14) throw new MidiFileError('The file is cut off inside its header', bytes.length)
  const headerLength = view.getUint32(4)
  if (headerLength < 6) throw new MidiFileError(`The header says it has ${headerLength} bytes; it needs 6`, 4)
  const format = view.getUint16(8)
  if (format !== 0 && format !== 1)
    throw new MidiFileError(`The file is of format ${format}; formats 0 and 1 are read`, 8)
  const trackCount = view.getUint16(10)
  const division = view.getUint16(12)
  if (division & 0x8000) {
    const framesPerSecond = 256 - (division >> 8)
    throw new MidiFileError(
      `The file counts time in SMPTE frames (${framesPerSecond} a second), not in bars and beats; export it again with ticks per quarter note`,
      12,
    )
  }
  if (division === 0) throw new MidiFileError('The division is zero ticks per quarter note', 12)

  const warnings: string[] = []
  const tracks: MidiFileTrack[] = []
  let offset = 8 + headerLength
  let eventsLeft = mostEvents
  while (offset < bytes.length && tracks.length < trackCount) {
    if (offset + 8 > bytes.length) throw cutOff(tracks.length, bytes.length)
    const name = chunkName(bytes, offset)
    const length = view.getUint32(offset + 4)
    const start = offset + 8
    if (name !== 'MTrk') {
      // "Your programs should expect alien chunks and treat them as if they weren't there" (the specification).
      if (!/^[\x20-\x7e]{4}$/.test(name))
        throw new MidiFileError(
          `Where track ${tracks.length + 1} should begin there is something else`,
          offset,
        )
      warnings.push(`A chunk named "${name}" was passed over.`)
      if (start + length > bytes.length) throw cutOff(tracks.length, bytes.length)
      offset = start + length
      continue
    }
    if (start + length > bytes.length)
      throw new MidiFileError(
        `The file is cut off: track ${tracks.length + 1} says it has ${length.toLocaleString('en')} bytes, but only ${(bytes.length - start).toLocaleString('en')} are there`,
        bytes.length,
      )
    const track = readTrack(bytes, start, start + length, tracks.length + 1, warnings, eventsLeft)
    eventsLeft -= track.events.length
    tracks.push(track)
    offset = start + length
  }
  if (tracks.length < trackCount) {
    if (tracks.length === 0) throw cutOff(0, bytes.length)
    throw new MidiFileError(
      `The file is cut off: its header says ${trackCount} tracks, but only ${tracks.length} are there`,
      bytes.length,
    )
  }
  if (tracks.length === 0) throw new MidiFileError('The file has no track', 10)
  if (offset < bytes.length)
    warnings.push(`${bytes.length - offset} bytes after the last track were passed over.`)
  if (format === 0 && tracks.length > 1)
    warnings.push(`A format 0 file should have one track; this has ${tracks.length}.`)
  return { format, divisionTicksPerQuarter: division, tracks, warnings }
}

function cutOff(tracksRead: number, at: number): MidiFileError {
  return new MidiFileError(`The file is cut off after ${tracksRead} whole tracks`, at)
}

function chunkName(bytes: Uint8Array, offset: number): string {
  return String.fromCharCode(bytes[offset]!, bytes[offset + 1]!, bytes[offset + 2]!, bytes[offset + 3]!)
}

function readTrack(
  bytes: Uint8Array,
  start: number,
  end: number,
  number: number,
  warnings: string[],
  mostEvents: number,
): MidiFileTrack {
  const events: MidiFileEvent[] = []
  let offset = start
  let tick = 0
  let runningStatus = 0

  const need = (count: number, what: string) => {
    if (offset + count > end) throw new MidiFileError(`Track ${number} ends inside ${what}`, offset)
  }
  const byte = (what: string): number => {
    need(1, what)
    return bytes[offset++]!
  }
  /** Seven bits a byte, the high bit set on all but the last; four bytes at most. */
  const variableLength = (what: string): number => {
    let value = 0
    for (let i = 0; i < 4; i++) {
      const next = byte(what)
      value = (value << 7) | (next & 0x7f)
      if (next < 0x80) return value
    }
    throw new MidiFileError(`Track ${number} has a number of more than four bytes in ${what}`, offset)
  }
  const data = (what: string): number => {
    const value = byte(what)
    if (value > 0x7f)
      throw new MidiFileError(`Track ${number} has a byte above 127 where ${what} should be`, offset - 1)
    return value
  }

  while (offset < end) {
    if (events.length > mostEvents)
      throw new MidiFileError('The file has more events than can be written as a score at once', offset)
    tick += variableLength('a time')
    let status = byte('an event')
    if (status === 0xff) {
      const metaType = byte('a meta event')
      const length = variableLength('the length of a meta event')
      need(length, 'a meta event')
      const content = bytes.subarray(offset, offset + length)
      offset += length
      if (metaType === 0x2f) {
        if (offset < end)
          warnings.push(`Track ${number} has ${end - offset} bytes after its end; they were passed over.`)
        return { events, endTick: tick }
      }
      events.push(readMeta(tick, metaType, content))
    } else if (status === 0xf0 || status === 0xf7) {
      const length = variableLength('the length of a system exclusive message')
      need(length, 'a system exclusive message')
      events.push({ tick, type: 'sysex', status, bytes: bytes.slice(offset, offset + length) })
      offset += length
      runningStatus = 0
    } else if (status > 0xf0) {
      throw new MidiFileError(
        `Track ${number} has the status byte ${status}, which has no place in a file`,
        offset - 1,
      )
    } else {
      let first: number
      if (status < 0x80) {
        if (runningStatus === 0)
          throw new MidiFileError(`Track ${number} has a data byte with no status before it`, offset - 1)
        first = status
        status = runningStatus
      } else {
        runningStatus = status
        first = data('a data byte')
      }
      const second = dataByteCount(status) === 2 ? data('a data byte') : 0
      const message = parseChannelMessage(status, first, second)
      if (message) events.push({ tick, ...message })
    }
  }
  warnings.push(`Track ${number} has no end-of-track event.`)
  return { events, endTick: tick }
}

const textEventTypes = new Map(
  Object.entries(textEventNumbers).map(([type, number]) => [number as number, type as TextEventType]),
)

function readMeta(tick: number, metaType: number, content: Uint8Array): MidiFileEvent {
  const textType = textEventTypes.get(metaType)
  if (textType) return { tick, type: textType, text: decodeText(content) }
  if (metaType === 0x51 && content.length === 3) {
    const microsecondsPerQuarter = (content[0]! << 16) | (content[1]! << 8) | content[2]!
    if (microsecondsPerQuarter > 0) return { tick, type: 'tempo', microsecondsPerQuarter }
  }
  if (metaType === 0x58 && content.length >= 2 && content[0]! > 0 && content[1]! <= 6)
    return {
      tick,
      type: 'meter',
      numerator: content[0]!,
      denominator: 2 ** content[1]!,
      clocksPerClick: content[2] ?? 24,
      thirtySecondsPerQuarter: content[3] ?? 8,
    }
  if (metaType === 0x59 && content.length === 2) {
    const fifths = (content[0]! << 24) >> 24
    if (fifths >= -7 && fifths <= 7)
      return { tick, type: 'keySignature', fifths, mode: content[1] === 1 ? 'minor' : 'major' }
  }
  return { tick, type: 'meta', metaType, bytes: content.slice() }
}

/** Names are UTF-8 where they can be, otherwise Latin-1: the standard leaves the encoding open. */
function decodeText(content: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(content)
  } catch {
    return Array.from(content, (code) => String.fromCharCode(code)).join('')
  }
}
