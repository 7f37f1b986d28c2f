import type { SpelledPitch } from './score'

/** Letters from C up, with how many semitones each lies above C. */
export const semitonesOfStep: Readonly<Record<SpelledPitch['step'], number>> = {
  C: 0,
  D: 2,
  E: 4,
  F: 5,
  G: 7,
  A: 9,
  B: 11,
}
const letters = Object.keys(semitonesOfStep) as SpelledPitch['step'][]

export function isStep(text: string): text is SpelledPitch['step'] {
  return Object.hasOwn(semitonesOfStep, text)
}

/** The MIDI key of a name: `keyOf({ step: 'C', alter: 0, octave: 4 })` is 60. */
export function keyOf({ step, alter, octave }: SpelledPitch): number {
  return semitonesOfStep[step] + alter + 12 * (octave + 1)
}

/** Steps of the staff from C0 up. */
export function stepOf({ step, octave }: Pick<SpelledPitch, 'step' | 'octave'>): number {
  return octave * 7 + letters.indexOf(step)
}

/** The letter of a step of the staff, with its octave. */
export function letterAt(step: number): Pick<SpelledPitch, 'step' | 'octave'> {
  return { step: letters[((step % 7) + 7) % 7]!, octave: Math.floor(step / 7) }
}

/** A key on a step of the staff; on a neighbouring step where it would need three signs there. */
export function pitchAt(step: number, key: number): SpelledPitch {
  for (const place of [step, step + 1, step - 1]) {
    const letter = letterAt(place)
    const alter = key - keyOf({ ...letter, alter: 0 })
    if (Math.abs(alter) <= 2) return { ...letter, alter }
  }
  throw new Error(`Key ${key} has no name near step ${step} of the staff`)
}
