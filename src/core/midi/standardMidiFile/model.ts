import { FileProblem } from '../../border/fileProblem'
import type { ChannelMessage } from '../message'

/** One event of a Standard MIDI File with its absolute position in the file's own ticks. */
export type MidiFileEvent = { readonly tick: number } & (
  | ChannelMessage
  | { readonly type: 'tempo'; readonly microsecondsPerQuarter: number }
  | {
      readonly type: 'meter'
      readonly numerator: number
      readonly denominator: number
      readonly clocksPerClick: number
      readonly thirtySecondsPerQuarter: number
    }
  /** −7 (seven flats) to 7 (seven sharps). */
  | { readonly type: 'keySignature'; readonly fifths: number; readonly mode: 'major' | 'minor' }
  | TextContent[TextEventType]
  /** Any other meta event, kept as it was. */
  | { readonly type: 'meta'; readonly metaType: number; readonly bytes: Uint8Array }
  /** System exclusive (0xF0) or escape (0xF7), kept as it was. */
  | { readonly type: 'sysex'; readonly status: 0xf0 | 0xf7; readonly bytes: Uint8Array }
)

/** Meta events that hold a text, with their numbers (Standard MIDI Files 1.0). */
export const textEventNumbers = {
  text: 0x01,
  copyright: 0x02,
  trackName: 0x03,
  instrumentName: 0x04,
  lyric: 0x05,
  marker: 0x06,
  cue: 0x07,
} as const
export type TextEventType = keyof typeof textEventNumbers
type TextContent = { readonly [Type in TextEventType]: { readonly type: Type; readonly text: string } }

export interface MidiFileTrack {
  readonly events: readonly MidiFileEvent[]
  /** Position of the end-of-track event. */
  readonly endTick: number
}

export interface MidiFile {
  readonly format: 0 | 1
  readonly divisionTicksPerQuarter: number
  readonly tracks: readonly MidiFileTrack[]
  /** What was odd but could be read, in plain words. */
  readonly warnings: readonly string[]
}

/** A file that cannot be read: `message` says what is wrong, `byteOffset` where. */
export class MidiFileError extends FileProblem {
  constructor(
    message: string,
    readonly byteOffset: number,
  ) {
    super(`${message} (at byte ${byteOffset.toLocaleString('en')})`)
    this.name = 'MidiFileError'
  }
}

/** Files above this are refused: about four million events, more than ten hours of dense playing. */
export const largestMidiFileBytes = 16 * 1024 * 1024
