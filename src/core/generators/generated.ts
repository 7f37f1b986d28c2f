import type { Milliseconds, Ticks } from '../time/units'

/** A note of a generator, with its whole length. */
export interface GeneratedNote {
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly key: number
  readonly velocity: number
  /** 1–16: which of the generator's streams it belongs to. */
  readonly channel: number
  /** A cable that gets it too. */
  readonly cable?: string
}

/** Something wrong in what was typed, at its place, both counted from 1. */
export interface TypingProblem {
  readonly line: number
  readonly column: number
  readonly text: string
}

/** A stream of a generator: what a source and a track are made from. */
export interface GeneratedStream {
  readonly channel: number
  readonly name: string
  /** General MIDI program from 0, or the drum kit. */
  readonly instrument: number | 'drums'
  /** Played later by so much. */
  readonly offsetMs: Milliseconds
}
