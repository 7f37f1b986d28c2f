import type { NoteId } from '../event/note'
import type { Ledger } from '../ledger/ledger'
import type { Measure } from '../time/meterMap'
import type { Milliseconds, Ticks } from '../time/units'
import type { AmendmentOf, HandSign, Misfit } from './amendments/amendment'
import type { Dynamics } from './dynamics'
import type { TornLines } from './hands'
import type { Lyric } from './lyrics'
import type { PedalSpan } from './pedal'
import type { KeyChange } from './scoreSettings'
import type { Swing } from './swing'
import type { TempoMark } from './tempoMarks'
import type { Transposition } from './transposition'

/** A written pitch; `alter` in semitones (−1 flat, 1 sharp), `octave` with middle C in 4. */
export interface SpelledPitch {
  readonly step: 'A' | 'B' | 'C' | 'D' | 'E' | 'F' | 'G'
  readonly alter: number
  readonly octave: number
}

/** Note values under their names in MusicXML, from the longest. */
export const noteValueTypes = ['whole', 'half', 'quarter', 'eighth', '16th', '32nd', '64th', '128th'] as const
export type NoteValueType = (typeof noteValueTypes)[number]

export interface NoteValue {
  readonly type: NoteValueType
  readonly dots: 0 | 1 | 2 | 3
}

export interface TupletPlace {
  /** `actual` notes in the time of `normal`. */
  readonly actual: number
  readonly normal: number
  readonly starts: boolean
  readonly stops: boolean
}

export interface ChordNote {
  /** The performed notes written here: one, or several that were merged. The first names it. */
  readonly noteIds: readonly NoteId[]
  /** How hard the first of them was struck, 1–127. */
  readonly velocity: number
  readonly key: number
  readonly pitch: SpelledPitch
  readonly tiesFromPrevious: boolean
  readonly tiesToNext: boolean
  /** The finger it is played with, where that is told. */
  readonly fingering: string | null
  /** The sign to print, where one is needed. */
  readonly accidental: 'sharp' | 'flat' | 'natural' | 'double-sharp' | 'flat-flat' | null
}

/** Words above a staff, at a place of the piece. */
export interface WrittenText {
  readonly tick: Ticks
  readonly text: string
}

export type BeamPart = 'begin' | 'continue' | 'end' | 'forward hook' | 'backward hook'

interface ElementTime {
  /** From the bar line. */
  readonly startTicks: Ticks
  readonly durationTicks: Ticks
  readonly value: NoteValue
  readonly tuplet: TupletPlace | null
}

/** How a note is played; a hi-hat is open, and closed where it was open before. */
export type Articulation = HandSign | 'open' | 'closed'

export type ScoreElement =
  | (ElementTime & {
      readonly kind: 'chord'
      readonly notes: readonly ChordNote[]
      readonly beams: readonly BeamPart[]
      /** How it is played, where it begins. */
      readonly articulations: readonly Articulation[]
      /** A hand has reached over: the other staff, on which it stands; null on that of its voice. */
      readonly crossesTo: number | null
      /** Notes in small print before it, in order, where it begins. */
      readonly graces: readonly ChordNote[]
      /** What is sung on it, where it begins. */
      readonly lyric: Lyric | null
    })
  | (ElementTime & { readonly kind: 'rest'; readonly isWholeMeasure: boolean; readonly isHidden: boolean })

/** The staff that an element of a line stands on. */
export function staffOf(element: ScoreElement, line: { readonly staff: number }): number {
  return element.kind === 'chord' ? (element.crossesTo ?? line.staff) : line.staff
}

/** One line of notes and rests that fills a measure of a staff. */
export interface VoiceInMeasure {
  /** From 1 within the part. */
  readonly voice: number
  /** From 1, the upper staff first. */
  readonly staff: number
  readonly elements: readonly ScoreElement[]
  /** What another part plays, in small notes that are not played. */
  readonly isCue?: true
}

export const clefs = ['treble', 'alto', 'tenor', 'bass', 'treble 8vb', 'bass 8vb', 'percussion'] as const
export type Clef = (typeof clefs)[number]

/** Another clef from a place on. */
export interface ClefChange {
  readonly staff: number
  /** Index of the measure. */
  readonly bar: number
  /** Within it; 0 or absent: from its bar line on. */
  readonly offsetTicks?: Ticks
  readonly clef: Clef
}

/** Notes written so many octaves lower than they sound (higher when negative). */
export interface OctaveLine {
  readonly staff: number
  readonly startTicks: Ticks
  readonly endTicks: Ticks
  readonly octaves: 1 | 2 | -1 | -2
}

/** A slur over notes of one voice, from the onset of the first to that of the last. */
export interface Slur {
  readonly voice: number
  readonly startTicks: Ticks
  readonly endTicks: Ticks
}

/** A slide from a chord of one voice to one of the same or another. */
export interface WrittenGlissando {
  readonly voice: number
  readonly startTicks: Ticks
  readonly endVoice: number
  readonly endTicks: Ticks
}

export interface ScorePart {
  readonly id: string
  /** Of each staff, at the beginning. */
  readonly clefs: readonly Clef[]
  readonly clefChanges: readonly ClefChange[]
  readonly octaveLines: readonly OctaveLine[]
  /** Its pitches are written so; its keys are those that sound. */
  readonly transposition: Transposition
  /** The keys it is written in: as many as those of the piece. */
  readonly keys: readonly KeyChange[]
  /** Key at and above which notes are in the upper staff; null on a single staff, and where the split moves with the hands. */
  readonly splitKey: number | null
  /** Steps of lines that a split at one key tears. */
  readonly tornLines: TornLines
  /** By measure. */
  readonly measures: readonly (readonly VoiceInMeasure[])[]
  /** Of its upper staff. */
  readonly dynamics: Pick<Dynamics, 'levels' | 'hairpins'>
  /** How late the player is throughout (early when negative); it is taken off. */
  readonly lateMs: Milliseconds
  /** Syllables stand under its notes, so levels stand above. */
  readonly isSung: boolean
  /** Syllables that are at no note, and so not on the page. */
  readonly unplacedSyllables: number
  /** In order within each voice. */
  readonly slurs: readonly Slur[]
  readonly glissandi: readonly WrittenGlissando[]
  /** Signs of the pedal, beneath its lowest staff, in order. */
  readonly pedals: readonly PedalSpan[]
  /** Above its upper staff, in order. */
  readonly texts: readonly WrittenText[]
  readonly ledger: Ledger
  /** Changes by hand that do not fit what is read now. */
  readonly misfits: readonly Misfit[]
}

/** The key in force at a place. */
export function keyAt(keys: readonly KeyChange[], tick: Ticks): KeyChange {
  return keys.findLast((change) => change.tick <= tick) ?? keys[0]!
}

/** Whether the part is written on a percussion staff: its keys are instruments, not pitches. */
export function isUnpitched(part: Pick<ScorePart, 'clefs'>): boolean {
  return part.clefs[0] === 'percussion'
}

/** A passage that is played several times and written once. */
export interface Repeat {
  /** Indices of its measures as they are written: `from` up to, not including, `to`. */
  readonly from: number
  readonly to: number
  /** How often it is played in all. */
  readonly times: number
}

/** A stretch of what is played that is written elsewhere, where the same is played first. */
export interface Return {
  readonly againFromTicks: Ticks
  readonly againToTicks: Ticks
  readonly writtenFromTicks: Ticks
}

/** Bars that are played the first time only, or the second; indices as in `Repeat`. */
export interface Ending {
  readonly from: number
  readonly to: number
  readonly time: 1 | 2
}

/** The line at the end of a bar, by its index. */
export interface WrittenBarLine {
  readonly bar: number
  readonly style: AmendmentOf<'barLine'>['style']
}

/** A bar, by its index, with which a line or a page begins. */
export interface WrittenBreak {
  readonly bar: number
  readonly of: AmendmentOf<'break'>['of']
}

/** Music as it is written; what stands above it and beside its staves is in `headings.ts`. */
export interface Score {
  /** Each from a bar line on, the first from the beginning. */
  readonly keys: readonly KeyChange[]
  /** Its eighths are played unevenly, as the word at its beginning says; null: as they are written. */
  readonly swing: Swing | null
  readonly tempos: readonly TempoMark[]
  /** Named parts of the piece, by where they begin: rehearsal marks. */
  readonly sections: readonly { readonly tick: Ticks; readonly name: string }[]
  /** Texts of the whole piece, in order. */
  readonly texts: readonly WrittenText[]
  /** Symbols of chords above the first staff, in order. */
  readonly chordSymbols: readonly WrittenText[]
  /** As they are written; where something is played again, times go on behind it. */
  readonly measures: readonly Measure[]
  /** In order; none unless they are asked for. */
  readonly repeats: readonly Repeat[]
  /** Where what is played again is written, in order. */
  readonly returns: readonly Return[]
  /** How what is repeated ends, each time, in order. */
  readonly endings: readonly Ending[]
  /** Lines at the ends of bars that are other than usual. */
  readonly barLines: readonly WrittenBarLine[]
  /** Bars with which a line or a page begins on paper because somebody wants it. */
  readonly breaks: readonly WrittenBreak[]
  /** Changes of bars by hand that do not fit, or are of parts that are not on the page. */
  readonly misfits: readonly Misfit[]
  readonly parts: readonly ScorePart[]
}
