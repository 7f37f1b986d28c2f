import type { Note, NoteOrigin, StaffNumber } from './note'

/**
 * Notes as columns of numbers, one row a note: what threads hand to each other (the buffers are transferred, not
 * copied, so that 100,000 notes cross in a few milliseconds) and what is stored.
 */
export interface NoteColumns {
  readonly count: number
  /** 3 a note: id, onsetTicks, durationTicks. */
  readonly times: Int32Array
  /** 4 a note: key, velocity, releaseVelocity, channel. */
  readonly bytes: Uint8Array
  /** 3 a note: kind, first and second number of the origin. */
  readonly origins: Int32Array
  /** 1 a note, where any is told: voice in the lowest four bits, staff in the two above, then whether the voice was set by hand. */
  readonly lines?: Uint8Array
}

const originKinds = ['played', 'printed', 'imported', 'drawn', 'generated', 'carried'] as const

export function packNotes(notes: readonly Note[]): NoteColumns {
  const count = notes.length
  const times = new Int32Array(count * 3)
  const bytes = new Uint8Array(count * 4)
  const origins = new Int32Array(count * 3)
  let lines: Uint8Array | undefined
  for (let i = 0; i < count; i++) {
    const note = notes[i]!
    times[i * 3] = note.id
    times[i * 3 + 1] = note.onsetTicks
    times[i * 3 + 2] = note.durationTicks
    bytes[i * 4] = note.key
    bytes[i * 4 + 1] = note.velocity
    bytes[i * 4 + 2] = note.releaseVelocity
    bytes[i * 4 + 3] = note.channel
    if (note.voice !== undefined || note.staff !== undefined) {
      lines ??= new Uint8Array(count)
      lines[i] = packLine(note)
    }
    const origin = note.origin
    origins[i * 3] = originKinds.indexOf(origin.kind)
    if (origin.kind === 'played') {
      origins[i * 3 + 1] = origin.takeSerial
      origins[i * 3 + 2] = origin.eventIndex
    } else if (origin.kind === 'printed' || origin.kind === 'carried') origins[i * 3 + 1] = origin.fromNoteId
    else if (origin.kind === 'imported') origins[i * 3 + 1] = origin.eventIndex
  }
  return { count, times, bytes, origins, ...(lines && { lines }) }
}

/** The buffers to transfer along with a message. */
export function columnBuffers(columns: NoteColumns): ArrayBuffer[] {
  const { times, bytes, origins, lines } = columns
  return [times, bytes, origins, ...(lines ? [lines] : [])].map(({ buffer }) => buffer) as ArrayBuffer[]
}

export function unpackNotes(columns: NoteColumns): Note[] {
  const { times, bytes, origins, lines } = columns
  const notes: Note[] = new Array(columns.count)
  for (let i = 0; i < columns.count; i++) {
    notes[i] = {
      id: times[i * 3]!,
      onsetTicks: times[i * 3 + 1]!,
      durationTicks: times[i * 3 + 2]!,
      key: bytes[i * 4]!,
      velocity: bytes[i * 4 + 1]!,
      releaseVelocity: bytes[i * 4 + 2]!,
      channel: bytes[i * 4 + 3]!,
      origin: unpackOrigin(origins[i * 3]!, origins[i * 3 + 1]!, origins[i * 3 + 2]!),
      ...(lines?.[i] ? unpackLine(lines[i]!) : noLine),
    }
  }
  return notes
}

const noLine = {}
const staffShift = 4
const byHandBit = 64

function packLine({ voice, staff, isVoiceByHand }: Note): number {
  return (voice ?? 0) | ((staff ?? 0) << staffShift) | (isVoiceByHand ? byHandBit : 0)
}

function unpackLine(line: number): Pick<Note, 'voice' | 'isVoiceByHand' | 'staff'> {
  const voice = line & 15
  const staff = (line >> staffShift) & 3
  return {
    ...(voice > 0 && { voice }),
    ...(line & byHandBit && { isVoiceByHand: true as const }),
    ...(staff > 0 && { staff: staff as StaffNumber }),
  }
}

const drawn: NoteOrigin = { kind: 'drawn' }
const generated: NoteOrigin = { kind: 'generated' }

function unpackOrigin(kind: number, first: number, second: number): NoteOrigin {
  switch (originKinds[kind]) {
    case 'played':
      return { kind: 'played', takeSerial: first, eventIndex: second }
    case 'printed':
      return { kind: 'printed', fromNoteId: first }
    case 'imported':
      return { kind: 'imported', eventIndex: first }
    case 'carried':
      return { kind: 'carried', fromNoteId: first }
    case 'drawn':
      return drawn
    case 'generated':
      return generated
    default:
      throw new RangeError(`There is no kind of origin with the number ${kind}`)
  }
}
