import type { Milliseconds, Ticks } from '../../time/units'
import type { TypingProblem } from '../generated'

/** Notes that begin together, as they are written: for their whole written length. */
export interface WrittenNotes {
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly keys: readonly number[]
  readonly velocity: number
}

/** A part as it was typed. */
export interface TypedPart {
  readonly name: string
  /** 1–16; null: the next free one. */
  readonly channel: number | null
  /** General MIDI program from 0. */
  readonly program: number | null
  /** How much of its written length a note sounds, in percent; null: as for the whole piece. */
  readonly gate: number | null
  /** Played later by so much. */
  readonly offsetMs: Milliseconds
  readonly notes: readonly WrittenNotes[]
}

export interface TypedMusic {
  readonly parts: readonly TypedPart[]
  readonly problems: readonly TypingProblem[]
}

/** After so many problems the reading stops: the text is something else. */
export const mostProblems = 100

/** Said where music goes on after the last position that can be kept. */
export const tooLong = 'This is longer than a piece can be'

/** @returns the key number of a note name with its octave, C4 = 60; null where it is none */
export function keyOfName(name: string): number | null {
  const parts = /^([A-Ga-g])([#♯b♭]{0,2})(-?\d)$/.exec(name)
  if (!parts) return null
  const [, letter, accidentals, octave] = parts
  const step = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }[letter!.toUpperCase()]!
  const shift = [...accidentals!].reduce((sum, sign) => sum + (sign === '#' || sign === '♯' ? 1 : -1), 0)
  const key = 12 * (Number(octave) + 1) + step + shift
  return key >= 0 && key <= 127 ? key : null
}
