import type { Instrument } from '../midi/instrument'
import type { Bracket } from './families'

/** What a score says about a part apart from its notes: what it is called and how it is to sound. */
export interface PartHeading {
  readonly name: string
  /** What it is called on all lines of music but the first. */
  readonly shortName: string
  readonly instrument: Instrument
  readonly bracket: Bracket
  /** What its drums are called, where that is otherwise than in General MIDI. */
  readonly keyNames: readonly { readonly key: number; readonly name: string }[]
  /** 1–16. */
  readonly channel: number
  /** 0–1. */
  readonly volume: number
  /** −1 (left) to 1. */
  readonly pan: number
}

export interface ScoreHeadings {
  readonly title: string
  readonly subtitle: string
  readonly composer: string
  readonly arranger: string
  readonly rights: string
  /** In the order of the parts of the score. */
  readonly parts: readonly PartHeading[]
}

/** Of what is only drawn, line by line. */
export const noHeadings: ScoreHeadings = {
  title: '',
  subtitle: '',
  composer: '',
  arranger: '',
  rights: '',
  parts: [],
}
