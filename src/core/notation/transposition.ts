import type { Instrument } from '../midi/instrument'
import type { KeySignature } from './scoreSettings'

/** How a part is written, so that its player, who plays what is written, sounds right. */
export interface Transposition {
  /** What is written lies this much above what sounds (below when negative). */
  readonly semitones: number
  /** The same in steps of the staff. */
  readonly steps: number
}

/** The ways in which parts are written, by what they are called. */
export const transpositions = {
  'as it sounds': { semitones: 0, steps: 0 },
  'in B♭': { semitones: 2, steps: 1 },
  'in A': { semitones: 3, steps: 2 },
  'in F': { semitones: 7, steps: 4 },
  'in E♭': { semitones: 9, steps: 5 },
  'in D': { semitones: 10, steps: 6 },
  'in E': { semitones: 8, steps: 5 },
  'in G': { semitones: 5, steps: 3 },
  'in high D': { semitones: -2, steps: -1 },
  'in high F': { semitones: -5, steps: -3 },
  'in B♭, a ninth': { semitones: 14, steps: 8 },
  'in E♭, a thirteenth': { semitones: 21, steps: 12 },
  'in high E♭': { semitones: -3, steps: -2 },
  'an octave higher': { semitones: 12, steps: 7 },
  'an octave lower': { semitones: -12, steps: -7 },
  'two octaves lower': { semitones: -24, steps: -14 },
} as const satisfies Record<string, Transposition>

export type TranspositionName = keyof typeof transpositions
export const transpositionNames = Object.keys(transpositions) as TranspositionName[]

/** What a transposition is called here: one of as many semitones, of the same steps before others; null where there is none. */
export function nameOfTransposition({ semitones, steps }: Transposition): TranspositionName | null {
  const alike = transpositionNames.filter((name) => transpositions[name].semitones === semitones)
  return alike.find((name) => transpositions[name].steps === steps) ?? alike[0] ?? null
}

/** General MIDI programs (from 0) that are usually written otherwise than they sound. */
const ofProgram: ReadonlyMap<number, TranspositionName> = new Map<number, TranspositionName>([
  [9, 'two octaves lower'],
  [13, 'an octave lower'],
  [43, 'an octave higher'],
  [56, 'in B♭'],
  [59, 'in B♭'],
  [60, 'in F'],
  [64, 'in B♭'],
  [65, 'in E♭'],
  [66, 'in B♭, a ninth'],
  [67, 'in E♭, a thirteenth'],
  [69, 'in F'],
  [71, 'in B♭'],
  [72, 'an octave lower'],
])

/** What names say, the most telling first: the pitch an instrument is built in, then what kind it is. */
const ofName: readonly (readonly [RegExp, TranspositionName])[] = [
  [/\b(tenor|tenor[- ]?sax\w*)\b.*\bsax|\btenor sax/i, 'in B♭, a ninth'],
  [/\bbari(tone)?\b.*\bsax|\bbari(tone)? sax/i, 'in E♭, a thirteenth'],
  [/\balto\b.*\bsax|\balto sax/i, 'in E♭'],
  [/\bsoprano\b.*\bsax|\bsoprano sax/i, 'in B♭'],
  [/\bbass clarinet/i, 'in B♭, a ninth'],
  [/\b(cor anglais|english horn)/i, 'in F'],
  [/\balto flute/i, 'in F'],
  [/\bpiccolo\b(?!.*trumpet)/i, 'an octave lower'],
  [/\b(double bass|contrabass)\b/i, 'an octave higher'],
]
/** "Clarinet in A", "B♭ trumpet", "Horn (F)": where an instrument is one that is built in several. */
const builtIn = /\b(clarinet|trumpet|cornet|horn|flugelhorn|clarinetto|corno|tromba)\b/i
const pitches: readonly (readonly [RegExp, TranspositionName])[] = [
  [/\bin b ?(♭|b|flat)|\bb ?(♭|-?flat)|\bbb\b/i, 'in B♭'],
  [/\bin e ?(♭|b|flat)|\be ?(♭|-?flat)|\beb\b/i, 'in high E♭'],
  [/\bin a\b|\(a\)/i, 'in A'],
  [/\bin f\b|\(f\)/i, 'in F'],
  [/\bin c\b|\(c\)/i, 'as it sounds'],
]

/** How a part is written where nobody chose: by what it is called, else by what it sounds as. */
export function usualTransposition(instrument: Instrument, name: string): TranspositionName {
  if (instrument.kind === 'drums') return 'as it sounds'
  if (builtIn.test(name)) {
    const said = pitches.find(([pattern]) => pattern.test(name))
    if (said) return said[1]
  }
  const called = ofName.find(([pattern]) => pattern.test(name))
  if (called) return called[1]
  return (instrument.kind === 'program' ? ofProgram.get(instrument.program) : undefined) ?? 'as it sounds'
}

/**
 * The key a part is written in. One with more than seven signs is written in its enharmonic.
 *
 * @example writtenKey({ fifths: 0, mode: 'major' }, transpositions['in B♭']) // two sharps
 */
export function writtenKey({ fifths, mode }: KeySignature, { semitones }: Transposition): KeySignature {
  const moved = fifths + ((((semitones * 7) % 12) + 12) % 12)
  let within = moved
  while (within > 6) within -= 12
  // Of two that are as near, the one on the side of the piece's key.
  if (semitones % 12 === 0) within = fifths
  return { fifths: within, mode }
}
