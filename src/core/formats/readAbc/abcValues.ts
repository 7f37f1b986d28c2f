import type { AbcClef, AbcKey, AbcMeter, AbcPitch } from 'abcjs/src/parse/abc_parse.js'
import type { WrittenLevel } from '../../notation/amendments/amendment'
import { writtenLevels } from '../../notation/amendments/amendment'
import { letterAt } from '../../notation/pitchSteps'
import type { Articulation, Clef, SpelledPitch } from '../../notation/score'
import type { KeySignature } from '../../notation/scoreSettings'
import type { Meter } from '../../time/meterMap'

/** Signs of the standard (abc 2.1, "Decorations") that have a sign here. */
const signs: Readonly<Record<string, Articulation>> = {
  staccato: 'staccato',
  accent: 'accent',
  emphasis: 'accent',
  '>': 'accent',
  tenuto: 'tenuto',
  wedge: 'staccatissimo',
  umarcato: 'marcato',
  marcato: 'marcato',
  fermata: 'fermata',
  breath: 'breath',
  upbow: 'up bow',
  downbow: 'down bow',
  arpeggio: 'rolled',
  trill: 'trill',
  mordent: 'lower mordent',
  lowermordent: 'lower mordent',
  uppermordent: 'upper mordent',
  pralltriller: 'upper mordent',
  turn: 'turn',
  trem3: 'tremolo',
  '///': 'tremolo',
}

export function signOf(decoration: string): Articulation | undefined {
  return Object.hasOwn(signs, decoration) ? signs[decoration] : undefined
}

/** How a sign is written; undefined where the standard has none. */
export function decorationOf(sign: Articulation): string | undefined {
  return Object.keys(signs).find((name) => signs[name] === sign)
}

const levels: ReadonlySet<string> = new Set(writtenLevels)

export function levelOf(decoration: string): WrittenLevel | null {
  return levels.has(decoration) ? (decoration as WrittenLevel) : null
}

const clefNames: Readonly<Record<string, Clef>> = {
  treble: 'treble',
  alto: 'alto',
  tenor: 'tenor',
  bass: 'bass',
  bass3: 'bass',
  'treble-8': 'treble 8vb',
  'bass-8': 'bass 8vb',
  perc: 'percussion',
  none: 'treble',
}

export function clefOf({ type = 'treble' }: AbcClef): Clef | null {
  return Object.hasOwn(clefNames, type) ? clefNames[type]! : null
}

export function clefName(clef: Clef): string {
  return Object.keys(clefNames).find((name) => clefNames[name] === clef)!
}

/** Signs of a key that are no sharps or flats in their usual order have no signature here. */
export function keyOfAbc({ accidentals: all = [], mode = '' }: AbcKey): {
  readonly key: KeySignature
  readonly isUsual: boolean
} {
  // Naturals take back what the key before had.
  const accidentals = all.filter(({ acc }) => acc !== 'natural')
  const sharps = accidentals.filter(({ acc }) => acc === 'sharp')
  const flats = accidentals.filter(({ acc }) => acc === 'flat')
  const order = 'FCGDAEB'
  const isOrdered = (notes: readonly { readonly note: string }[], letters: string) =>
    notes.every(({ note }) => letters.slice(0, notes.length).includes(note.toUpperCase()))
  const isUsual =
    sharps.length + flats.length === accidentals.length &&
    (sharps.length === 0 || flats.length === 0) &&
    isOrdered(sharps, order) &&
    isOrdered(flats, [...order].reverse().join(''))
  const fifths = isUsual ? sharps.length - flats.length : 0
  return { key: { fifths, mode: mode === 'm' ? 'minor' : 'major' }, isUsual }
}

/** null: free, or one that is not known. */
export function meterOfAbc({ type, value }: AbcMeter): Meter | null {
  if (type === 'common_time') return { numerator: 4, denominator: 4 }
  if (type === 'cut_time') return { numerator: 2, denominator: 2 }
  const [first] = value ?? []
  if (type !== 'specified' || !first) return null
  // Sums such as 2+3 are what they add up to.
  const numerator = String(first.num)
    .split('+')
    .reduce((sum, part) => sum + Number(part), 0)
  const denominator = Number(first.den ?? 4)
  const isKnown =
    Number.isInteger(numerator) &&
    numerator >= 1 &&
    numerator <= 64 &&
    [1, 2, 4, 8, 16, 32, 64].includes(denominator)
  return isKnown ? { numerator, denominator } : null
}

const alters: Readonly<Record<string, number>> = { sharp: 1, flat: -1, natural: 0, dblsharp: 2, dblflat: -2 }

/** What a sign before a note makes of it; null: there is none that is known here. */
export function alterOf({ accidental = '' }: AbcPitch): number | null {
  return Object.hasOwn(alters, accidental) ? alters[accidental]! : null
}

const middleC = 4 * 7

export function letterOf({ pitch }: AbcPitch): Pick<SpelledPitch, 'step' | 'octave'> {
  return letterAt(middleC + pitch)
}

/** Quarters to the minute. */
export function tempoOf({
  duration,
  bpm,
}: {
  readonly duration?: readonly number[]
  readonly bpm?: number
}): number | null {
  const unit = duration?.reduce((sum, each) => sum + each, 0) ?? 0.25
  return bpm === undefined || !(bpm > 0) || !(unit > 0) ? null : bpm * unit * 4
}

/** Times of an ending: "1", "1,3" or "1-3". */
export function timesOf(text: string): number[] {
  const times = text.split(',').flatMap((part) => {
    const [from = 0, to = from] = part.split('-').map(Number)
    return Number.isInteger(from) && Number.isInteger(to) && from > 0 && to >= from && to < 100
      ? Array.from({ length: to - from + 1 }, (_, index) => from + index)
      : []
  })
  return times.length > 0 ? times : [1]
}

/** Signs of a chord symbol as they are typed here. */
export function plainSymbol(name: string): string {
  return name.replaceAll('♯', '#').replaceAll('♭', 'b').replaceAll('♮', '')
}
