import type { Clef } from '../../notation/score'
import type { Transposition } from '../../notation/transposition'
import type { Meter } from '../../time/meterMap'
import { child, childrenOf, textOf, type XmlElement } from '../xmlTree'

/** The meter of a `time` element, with those that are added up in one; null for none, and for one that is not known. */
export function meterOf(time: XmlElement): Meter | null {
  if (child(time, 'senza-misura')) return null
  const beats = childrenOf(time, 'beats').map((each) =>
    each.text.split('+').reduce((sum, part) => sum + Number(part), 0),
  )
  const types = childrenOf(time, 'beat-type').map((each) => Number(each.text))
  const finest = Math.max(...types)
  const numerator = beats.reduce((sum, count, index) => sum + (count * finest) / (types[index] ?? finest), 0)
  const isUsual =
    Number.isInteger(numerator) &&
    numerator >= 1 &&
    numerator <= 64 &&
    [1, 2, 4, 8, 16, 32, 64].includes(finest)
  return isUsual ? { numerator, denominator: finest } : null
}

/** A clef; null for one that is not known here. */
export function clefOf(element: XmlElement): Clef | null {
  const sign = textOf(element, 'sign')
  const isLower = Number(textOf(element, 'clef-octave-change') ?? 0) === -1
  switch (sign) {
    case 'percussion':
      return 'percussion'
    case 'G':
      return isLower ? 'treble 8vb' : 'treble'
    case 'F':
      return isLower ? 'bass 8vb' : 'bass'
    case 'C':
      return textOf(element, 'line') === '4' ? 'tenor' : 'alto'
    default:
      return null
  }
}

/** How a part is written, from how it sounds. */
export function transpositionOf(transpose: XmlElement): Transposition {
  const number = (name: string) => Math.round(Number(textOf(transpose, name) ?? 0)) || 0
  const octaves = number('octave-change')
  return {
    semitones: 0 - (number('chromatic') + 12 * octaves),
    steps: 0 - (number('diatonic') + 7 * octaves),
  }
}
