import { Chord, Note } from 'tonal'
import type { SpelledPitch } from '../score'

type Letter = SpelledPitch['step']

/** A name of a pitch class. */
export interface PitchName {
  readonly step: Letter
  readonly alter: number
}

/** The symbol of a chord, taken apart as files want it. */
export interface ChordSymbol {
  /** null: no chord. */
  readonly root: PitchName | null
  /** Kind of the chord as in MusicXML 3.0, `kind-value`. */
  readonly kind: string
  /** What is printed behind the root. */
  readonly suffix: string
  /** Another lowest note than the root. */
  readonly bass: PitchName | null
}

/** Names of the library for chords, and those of the standard. */
const kinds: Readonly<Record<string, string>> = {
  major: 'major',
  minor: 'minor',
  augmented: 'augmented',
  diminished: 'diminished',
  'dominant seventh': 'dominant',
  'major seventh': 'major-seventh',
  'minor seventh': 'minor-seventh',
  'diminished seventh': 'diminished-seventh',
  'half-diminished': 'half-diminished',
  'minor/major seventh': 'major-minor',
  'augmented seventh': 'augmented-seventh',
  sixth: 'major-sixth',
  'minor sixth': 'minor-sixth',
  'dominant ninth': 'dominant-ninth',
  'major ninth': 'major-ninth',
  'minor ninth': 'minor-ninth',
  eleventh: 'dominant-11th',
  'dominant thirteenth': 'dominant-13th',
  'suspended second': 'suspended-second',
  'suspended fourth': 'suspended-fourth',
  fifth: 'power',
}

/** What is usually printed behind the root for a kind of chord of MusicXML, where a file does not say. (Common practice, no source.) */
export const printedKinds: Readonly<Record<string, string>> = {
  major: '',
  minor: 'm',
  augmented: 'aug',
  diminished: 'dim',
  dominant: '7',
  'major-seventh': 'maj7',
  'minor-seventh': 'm7',
  'diminished-seventh': 'dim7',
  'half-diminished': 'm7b5',
  'major-minor': 'mMaj7',
  'augmented-seventh': 'aug7',
  'major-sixth': '6',
  'minor-sixth': 'm6',
  'dominant-ninth': '9',
  'major-ninth': 'maj9',
  'minor-ninth': 'm9',
  'dominant-11th': '11',
  'dominant-13th': '13',
  'suspended-second': 'sus2',
  'suspended-fourth': 'sus4',
  power: '5',
}

/** A chord as it was typed: its root, what stands behind it, another bass, and what it is by the library of chords. */
export interface TypedChord {
  readonly root: string
  readonly suffix: string
  readonly bass: string | undefined
  readonly named: ReturnType<typeof Chord.get>
}

/**
 * Reads a chord as it is typed: letter, sharp or flat, kind, and a bass after a slash.
 *
 * @returns null when it is none
 */
export function typedChord(text: string): TypedChord | null {
  const typed = text.trim().replaceAll('♯', '#').replaceAll('♭', 'b')
  const parts = /^([A-G](?:##?|bb?)?)([^/]*(?:\/\d+[^/]*)?)(?:\/([A-G](?:##?|bb?)?))?$/.exec(typed)
  if (!parts) return null
  const [, root = '', suffix = '', bass] = parts
  const usual = suffix.replace(/^-/, 'm').replace('ø', 'm7b5').replace('Δ', 'maj7')
  const named = Chord.get(`${root}${usual}`)
  return named.empty || !named.tonic ? null : { root, suffix, bass, named }
}

/** Whether somebody typed that there is no chord. */
export function isNoChord(text: string): boolean {
  return /^n\.? ?c\.?$/i.test(text.trim())
}

/**
 * Reads a chord symbol as it is typed; "N.C." for none.
 *
 * @returns null when it is none
 * @example chordSymbol('F#m7/C#')
 */
export function chordSymbol(text: string): ChordSymbol | null {
  if (isNoChord(text)) return { root: null, kind: 'none', suffix: 'N.C.', bass: null }
  const typed = typedChord(text)
  if (!typed) return null
  const { root, suffix, bass, named } = typed
  return {
    root: nameOf(root),
    kind: kinds[named.type] ?? 'other',
    suffix,
    bass: bass === undefined ? null : nameOf(bass),
  }
}

function nameOf(text: string): PitchName {
  const { letter, alt } = Note.get(text)
  return { step: letter as Letter, alter: alt ?? 0 }
}

/** A chord symbol with the signs of engraved music instead of typed ones. */
export function printedSymbol(text: string): string {
  return text.replace(
    /([A-G])(##?|bb?)/g,
    (_, step: string, sign: string) => step + sign.replaceAll('#', '♯').replaceAll('b', '♭'),
  )
}
