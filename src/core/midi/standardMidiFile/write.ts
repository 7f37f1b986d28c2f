import { channelMessageBytes } from '../message'
import { type MidiFile, type MidiFileEvent, type MidiFileTrack, textEventNumbers } from './model'

/** Growing byte buffer. */
class ByteWriter {
  private buffer = new Uint8Array(4096)
  length = 0

  push(...values: number[]): void {
    this.reserve(values.length)
    for (const value of values) this.buffer[this.length++] = value
  }

  append(values: Uint8Array): void {
    this.reserve(values.length)
    this.buffer.set(values, this.length)
    this.length += values.length
  }

  bytes(): Uint8Array {
    return this.buffer.slice(0, this.length)
  }

  private reserve(count: number): void {
    if (this.length + count <= this.buffer.length) return
    const larger = new Uint8Array(Math.max(this.buffer.length * 2, this.length + count))
    larger.set(this.buffer)
    this.buffer = larger
  }
}

/**
 * Variable-length number of Standard MIDI Files 1.0: seven bits a byte, the high bit set on all but the last.
 *
 * @example variableLengthBytes(128) // [0x81, 0x00]
 * @throws RangeError outside 0 to 268,435,455
 */
export function variableLengthBytes(value: number): number[] {
  if (!Number.isInteger(value) || value < 0 || value > 0x0fffffff)
    throw new RangeError(`${value} does not fit a variable-length number`)
  const bytes = [value & 0x7f]
  for (let rest = value >> 7; rest > 0; rest >>= 7) bytes.unshift((rest & 0x7f) | 0x80)
  return bytes
}

export function writeMidiFile(file: Omit<MidiFile, 'warnings'>): Uint8Array {
  const out = new ByteWriter()
  out.push(...ascii('MThd'), ...uint32(6), ...uint16(file.format), ...uint16(file.tracks.length))
  out.push(...uint16(file.divisionTicksPerQuarter))
  for (const track of file.tracks) {
    const body = trackBytes(track)
    out.push(...ascii('MTrk'), ...uint32(body.length))
    out.append(body)
  }
  return out.bytes()
}

/** At one tick: names and meters first, then note-offs, then everything else, so that repeated notes stay apart. */
function order(event: MidiFileEvent): number {
  switch (event.type) {
    case 'noteOff':
      return 1
    case 'noteOn':
      return 3
    case 'text':
    case 'copyright':
    case 'trackName':
    case 'instrumentName':
    case 'lyric':
    case 'marker':
    case 'cue':
    case 'tempo':
    case 'meter':
    case 'keySignature':
    case 'meta':
      return 0
    default:
      return 2
  }
}

function trackBytes(track: MidiFileTrack): Uint8Array {
  const out = new ByteWriter()
  const endsItself = endsOfEmptyNotes(track.events)
  const rankOf = (event: MidiFileEvent) => (endsItself.has(event) ? 4 : order(event))
  const events = track.events
    .map((event, index) => ({ event, index }))
    .sort((a, b) => a.event.tick - b.event.tick || rankOf(a.event) - rankOf(b.event) || a.index - b.index)
  let tick = 0
  for (const { event } of events) {
    writeGap(out, event.tick - tick)
    tick = event.tick
    writeEvent(out, event)
  }
  writeGap(out, Math.max(0, track.endTick - tick))
  out.push(0xff, 0x2f, 0x00)
  return out.bytes()
}

/** Note-offs of notes that last no time: they stay behind their note-on. */
function endsOfEmptyNotes(events: readonly MidiFileEvent[]): ReadonlySet<MidiFileEvent> {
  const ends = new Set<MidiFileEvent>()
  const struckAt = new Map<number, number>()
  for (const event of events) {
    if (event.type !== 'noteOn' && event.type !== 'noteOff') continue
    const key = event.channel * 128 + event.key
    if (event.type === 'noteOn') {
      if (!struckAt.has(key)) struckAt.set(key, event.tick)
      continue
    }
    if (struckAt.get(key) === event.tick) ends.add(event)
    struckAt.delete(key)
  }
  return ends
}

const longestGap = 0x0fffffff

/** The time to the next event; one that fits no variable-length number goes by way of empty texts (meta event 1). */
function writeGap(out: ByteWriter, ticks: number): void {
  let left = ticks
  for (; left > longestGap; left -= longestGap) out.push(...variableLengthBytes(longestGap), 0xff, 0x01, 0x00)
  out.push(...variableLengthBytes(left))
}

function writeEvent(out: ByteWriter, event: MidiFileEvent): void {
  switch (event.type) {
    case 'tempo': {
      const value = event.microsecondsPerQuarter
      out.push(0xff, 0x51, 3, (value >> 16) & 0xff, (value >> 8) & 0xff, value & 0xff)
      return
    }
    case 'meter':
      out.push(0xff, 0x58, 4, event.numerator, Math.log2(event.denominator))
      out.push(event.clocksPerClick, event.thirtySecondsPerQuarter)
      return
    case 'keySignature':
      out.push(0xff, 0x59, 2, event.fifths & 0xff, event.mode === 'minor' ? 1 : 0)
      return
    case 'text':
    case 'copyright':
    case 'trackName':
    case 'instrumentName':
    case 'lyric':
    case 'marker':
    case 'cue':
      writeBlock(out, [0xff, textEventNumbers[event.type]], new TextEncoder().encode(event.text))
      return
    case 'meta':
      writeBlock(out, [0xff, event.metaType], event.bytes)
      return
    case 'sysex':
      writeBlock(out, [event.status], event.bytes)
      return
    default:
      out.push(...channelMessageBytes(event))
  }
}

function writeBlock(out: ByteWriter, head: number[], content: Uint8Array): void {
  out.push(...head, ...variableLengthBytes(content.length))
  out.append(content)
}

function ascii(text: string): number[] {
  return [...text].map((letter) => letter.charCodeAt(0))
}

function uint16(value: number): number[] {
  return [(value >> 8) & 0xff, value & 0xff]
}

function uint32(value: number): number[] {
  return [(value >>> 24) & 0xff, (value >> 16) & 0xff, (value >> 8) & 0xff, value & 0xff]
}
