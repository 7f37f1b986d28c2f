import { Note as Pitch } from 'tonal'
import type { Ticks } from '../time/units'

/** Unique in a project and never used again. */
export type NoteId = number

/** Where a note came from: the lineage that the ledger and the links between views follow. */
export type NoteOrigin =
  /** Played: the note-on is event `eventIndex` of the take with serial `takeSerial`. */
  | { readonly kind: 'played'; readonly takeSerial: number; readonly eventIndex: number }
  /** The result of a note effect: `fromNoteId` is the source note. */
  | { readonly kind: 'printed'; readonly fromNoteId: NoteId }
  /** On another track since its own was taken apart or put together with others: `fromNoteId` is the note there. */
  | { readonly kind: 'carried'; readonly fromNoteId: NoteId }
  /** Read from a file: the n-th note of its track there. */
  | { readonly kind: 'imported'; readonly eventIndex: number }
  | { readonly kind: 'drawn' }
  /** Made by a generator. */
  | { readonly kind: 'generated' }

export interface Note {
  readonly id: NoteId
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  /** MIDI key number: 60 is C4, middle C. */
  readonly key: number
  /** 1–127. */
  readonly velocity: number
  /** 0–127. */
  readonly releaseVelocity: number
  /** 1–16. */
  readonly channel: number
  readonly origin: NoteOrigin
  /** The line it belongs to where that was told, 1 (the highest) to `mostLines`; otherwise the page sorts it. */
  readonly voice?: number
  /** Somebody put it there: it is not told anew. */
  readonly isVoiceByHand?: true
  /** Of a part on two staves the one it is written on, where that was told; otherwise the split decides. */
  readonly staff?: StaffNumber
}

/** Upper and lower staff of a part. */
export type StaffNumber = 1 | 2

/** So many lines of one part can be told apart. */
export const mostLines = 8

/** Everything on a track that is not a note: kept, played back and exported. */
export interface ControllerEvent {
  readonly tick: Ticks
  readonly channel: number
  readonly kind: 'controller' | 'bend' | 'channelPressure' | 'keyPressure' | 'program'
  /** Controller or key number; 0 where the kind has none. */
  readonly number: number
  /** 0–127; for a bend 0–16,383 with 8,192 at rest. */
  readonly value: number
}

export function noteEndTicks(note: { onsetTicks: Ticks; durationTicks: Ticks }): Ticks {
  return note.onsetTicks + note.durationTicks
}

export function byOnset(a: Note, b: Note): number {
  return a.onsetTicks - b.onsetTicks || a.key - b.key || a.id - b.id
}

const letterNames = ['C', 'C♯', 'D', 'E♭', 'E', 'F', 'F♯', 'G', 'A♭', 'A', 'B♭', 'B']

/** `keyName(60)` is "C4" (middle C, as in ISO 16 and MIDI 1.0 with C4 = 60). */
export function keyName(key: number): string {
  return `${letterNames[((key % 12) + 12) % 12]}${Math.floor(key / 12) - 1}`
}

/** Reads "C4", "F#3", "Bb2", "E♭5", "C##4" or a key number; undefined when it is neither or lies off the keyboard. */
export function parseKeyName(text: string): number | undefined {
  const name = text.trim()
  if (/^\d{1,3}$/.test(name)) return Number(name) <= lastKey ? Number(name) : undefined
  const key = Pitch.get(name.replaceAll('♯', '#').replaceAll('♭', 'b')).midi
  return key == null ? undefined : key
}

/** Keys of MIDI go from 0 to 127. */
const lastKey = 127
