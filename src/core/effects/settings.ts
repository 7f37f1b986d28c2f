import { Scale } from 'tonal'
import { z } from '../border/checks'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'

/**
 * What can be set of an effect, told once: the schema that stored settings are read with, the values to begin with and the
 * controls on the screen all follow from it.
 */
export type Field =
  | {
      readonly type: 'number'
      readonly label: string
      readonly min: number
      readonly max: number
      readonly start: number
      readonly step: number
      readonly unit: string
    }
  | {
      readonly type: 'choice'
      readonly label: string
      readonly options: readonly string[]
      readonly start: string
    }
  | { readonly type: 'switch'; readonly label: string; readonly start: boolean }
  /** A key of the keyboard, shown by name. */
  | { readonly type: 'key'; readonly label: string; readonly start: number }
  /** Whole numbers, in order: steps of a scale, semitones, channels, values of a curve. */
  | {
      readonly type: 'numbers'
      readonly label: string
      readonly min: number
      readonly max: number
      readonly most: number
      readonly start: readonly number[]
    }

export type Fields = Readonly<Record<string, Field>>

type ValueOf<F extends Field> = F extends { type: 'number' | 'key' }
  ? number
  : F extends { type: 'choice'; options: readonly (infer Option)[] }
    ? Option
    : F extends { type: 'switch' }
      ? boolean
      : readonly number[]

export type SettingsOf<F extends Fields> = { readonly [Name in keyof F]: ValueOf<F[Name]> }

export function number<const Unit extends string>(
  label: string,
  [min, max]: readonly [number, number],
  start: number,
  unit: Unit = '' as Unit,
  step = 1,
) {
  return { type: 'number', label, min, max, start, step, unit } as const
}

export function choice<const Option extends string>(
  label: string,
  options: readonly Option[],
  start: NoInfer<Option>,
) {
  return { type: 'choice', label, options, start } as const
}

export function onOff(label: string, start: boolean) {
  return { type: 'switch', label, start } as const
}

export function key(label: string, start: number) {
  return { type: 'key', label, start } as const
}

export function numbers(
  label: string,
  [min, max]: readonly [number, number],
  start: readonly number[],
  most = 16,
) {
  return { type: 'numbers', label, min, max, most, start } as const
}

export function defaultsOf<F extends Fields>(fields: F): SettingsOf<F> {
  return Object.fromEntries(
    Object.entries(fields).map(([name, field]) => [name, field.start]),
  ) as SettingsOf<F>
}

/** The border check of stored or imported settings. What is missing takes its value to begin with. */
export function schemaOf<F extends Fields>(fields: F): z.ZodType<SettingsOf<F>> {
  const shape = Object.fromEntries(Object.entries(fields).map(([name, field]) => [name, fieldSchema(field)]))
  return z.object(shape) as unknown as z.ZodType<SettingsOf<F>>
}

function fieldSchema(field: Field): z.ZodType {
  switch (field.type) {
    case 'number':
      return z.number().min(field.min).max(field.max).default(field.start)
    case 'choice':
      return z.enum(field.options as [string, ...string[]]).default(field.start)
    case 'switch':
      return z.boolean().default(field.start)
    case 'key':
      return z.number().int().min(0).max(127).default(field.start)
    case 'numbers':
      return z
        .array(z.number().int().min(field.min).max(field.max))
        .max(field.most)
        .default([...field.start])
  }
}

const whole = TICKS_PER_QUARTER * 4

/** Note values with their lengths: plain, dotted and as a triplet (two thirds). */
export const noteValues = {
  '1/1': whole,
  '1/2 dotted': (whole * 3) / 4,
  '1/2': whole / 2,
  '1/2 triplet': whole / 3,
  '1/4 dotted': (whole * 3) / 8,
  '1/4': whole / 4,
  '1/4 triplet': whole / 6,
  '1/8 dotted': (whole * 3) / 16,
  '1/8': whole / 8,
  '1/8 triplet': whole / 12,
  '1/16 dotted': (whole * 3) / 32,
  '1/16': whole / 16,
  '1/16 triplet': whole / 24,
  '1/32': whole / 32,
  '1/32 triplet': whole / 48,
} as const satisfies Readonly<Record<string, Ticks>>

export type NoteValue = keyof typeof noteValues
export const noteValueNames = Object.keys(noteValues) as NoteValue[]

export const tonics = ['C', 'D♭', 'D', 'E♭', 'E', 'F', 'F♯', 'G', 'A♭', 'A', 'B♭', 'B'] as const
export const scaleNames = [
  'major',
  'minor',
  'harmonic minor',
  'melodic minor',
  'dorian',
  'phrygian',
  'lydian',
  'mixolydian',
  'locrian',
  'major pentatonic',
  'minor pentatonic',
  'blues',
  'whole tone',
  'diminished',
  'chromatic',
] as const

export type Tonic = (typeof tonics)[number]
export type ScaleName = (typeof scaleNames)[number]

const degreesByScale = new Map<ScaleName, readonly number[]>()

/** Semitones of the degrees of a scale above its tonic, from tonal's tables. */
export function scaleDegrees(scale: ScaleName): readonly number[] {
  let degrees = degreesByScale.get(scale)
  if (!degrees) {
    degrees = Scale.get(`C ${scale}`).notes.map((note) => chromaOf(note))
    degreesByScale.set(scale, degrees)
  }
  return degrees
}

function chromaOf(name: string): number {
  const letter = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }[name[0]!]!
  const sharps = name.split('#').length - name.split('b').length
  return (((letter + sharps) % 12) + 12) % 12
}

/** A scale as keys: the key of each degree, counted from the tonic in the lowest octave. */
export class KeyScale {
  private readonly tonic: number
  private readonly degrees: readonly number[]

  constructor(tonic: Tonic, scale: ScaleName) {
    this.tonic = tonics.indexOf(tonic)
    this.degrees = scaleDegrees(scale)
  }

  /** The degree at or below a key, counted over all octaves from the tonic below key 12. */
  degreeAtOrBelow(key: number): number {
    const above = key - this.tonic
    const octave = Math.floor(above / 12)
    const within = above - octave * 12
    let index = this.degrees.length - 1
    while (index > 0 && this.degrees[index]! > within) index--
    return octave * this.degrees.length + index
  }

  keyOf(degree: number): number {
    const octave = Math.floor(degree / this.degrees.length)
    return this.tonic + octave * 12 + this.degrees[degree - octave * this.degrees.length]!
  }

  has(key: number): boolean {
    return this.keyOf(this.degreeAtOrBelow(key)) === key
  }
}
