import { type Clef, type NoteValue, noteValueTypes } from '../../notation/score'
import type { KeySignature } from '../../notation/scoreSettings'
import type { Meter } from '../../time/meterMap'
import { child, type XmlElement } from '../xmlTree'

/** All elements within one, in order. */
export function inner(element: XmlElement): XmlElement[] {
  return element.children.flatMap((each) => [each, ...inner(each)])
}

/** All text within an element. */
export function plainText(element: XmlElement | undefined): string {
  if (!element) return ''
  const within = element.children.map(plainText).join('')
  return `${element.text}${within}`.replace(/\s+/g, ' ').trim()
}

const durations: Readonly<Record<string, NoteValue['type']>> = Object.fromEntries(
  noteValueTypes.map((type, index) => [String(2 ** index), type]),
)

/** The value of `dur` and `dots`; null where it is none of those that are known. */
export function valueOfMei({ attributes }: XmlElement, outer?: XmlElement): NoteValue | null {
  const type = durations[attributes.dur ?? outer?.attributes.dur ?? '']
  const dots = Number(attributes.dots ?? outer?.attributes.dots ?? 0)
  return type && Number.isInteger(dots) && dots >= 0 && dots <= 3
    ? { type, dots: dots as NoteValue['dots'] }
    : null
}

/** The clef of a staff, told by attributes or an element. */
export function clefOf(staff: XmlElement): Clef | null {
  const element = staff.name === 'clef' ? staff : child(staff, 'clef')
  const of = (name: string) => element?.attributes[name] ?? staff.attributes[`clef.${name}`]
  const isLower = of('dis') === '8' && of('dis.place') === 'below'
  switch (of('shape')) {
    case 'G':
      return isLower ? 'treble 8vb' : 'treble'
    case 'GG':
      return 'treble 8vb'
    case 'F':
      return isLower ? 'bass 8vb' : 'bass'
    case 'C':
      return of('line') === '4' ? 'tenor' : 'alto'
    case 'perc':
      return 'percussion'
    default:
      return null
  }
}

/** The key signature of a staff or score; null where none is told. */
export function keyOf(of: XmlElement): KeySignature | null {
  const element = child(of, 'keySig')
  const sig = element?.attributes.sig ?? of.attributes.keysig ?? of.attributes['key.sig']
  const [, count, sign] = /^(\d)([sf])?$/.exec(sig ?? '') ?? []
  if (count === undefined) return null
  const mode = element?.attributes.mode ?? of.attributes['key.mode']
  return {
    fifths: sign === 'f' ? 0 - Number(count) : Number(count),
    mode: mode === 'minor' ? 'minor' : 'major',
  }
}

/** The meter of a staff or score; undefined where none is told, null where none holds. */
export function meterOf(of: XmlElement): Meter | null | undefined {
  const element = child(of, 'meterSig')
  const attribute = (name: string) => element?.attributes[name] ?? of.attributes[`meter.${name}`]
  const sym = attribute('sym')
  const count = attribute('count')
    ?.split('+')
    .reduce((sum, part) => sum + Number(part), 0)
  const unit = Number(attribute('unit') ?? Number.NaN)
  if (count === undefined || !Number.isInteger(unit)) {
    if (sym === 'common') return { numerator: 4, denominator: 4 }
    if (sym === 'cut') return { numerator: 2, denominator: 2 }
    return undefined
  }
  return Number.isInteger(count) && count >= 1 && count <= 64 && [1, 2, 4, 8, 16, 32, 64].includes(unit)
    ? { numerator: count, denominator: unit }
    : null
}
