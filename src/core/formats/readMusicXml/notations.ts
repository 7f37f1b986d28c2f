import type { Articulation } from '../../notation/score'
import { childrenOf, type XmlElement } from '../xmlTree'

/** Elements of `articulations`, `ornaments` and `technical` that are signs here, after MusicXML 4.0. */
const signOf: Readonly<Record<string, Articulation>> = {
  staccato: 'staccato',
  spiccato: 'staccatissimo',
  staccatissimo: 'staccatissimo',
  tenuto: 'tenuto',
  accent: 'accent',
  'strong-accent': 'marcato',
  'breath-mark': 'breath',
  caesura: 'breath',
  'up-bow': 'up bow',
  'down-bow': 'down bow',
  'trill-mark': 'trill',
  mordent: 'lower mordent',
  'inverted-mordent': 'upper mordent',
  turn: 'turn',
  'delayed-turn': 'turn',
  stopped: 'closed',
  'open-string': 'open',
  open: 'open',
}

/** What stands at one note: signs, fingers, and the ends of what leads to other notes. */
export interface NoteSigns {
  readonly articulations: readonly Articulation[]
  readonly fingerings: readonly string[]
  /** In the order of the file. */
  readonly ends: readonly {
    readonly of: 'slur' | 'glissando'
    readonly number: string
    readonly type: 'start' | 'stop'
  }[]
  readonly tiesTo: boolean
  readonly tiesFrom: boolean
  readonly tupletStarts: boolean
  readonly tupletStops: boolean
  /** Signs that are not known here, by their names. */
  readonly unknown: readonly string[]
}

/** Reads all `notations` of a note. */
export function noteSigns(note: XmlElement, isPercussion: boolean): NoteSigns {
  const articulations: Articulation[] = []
  const fingerings: string[] = []
  const ends: NoteSigns['ends'][number][] = []
  const unknown: string[] = []
  let [tiesTo, tiesFrom, tupletStarts, tupletStops] = [false, false, false, false]
  const add = (sign: Articulation) => {
    if (!articulations.includes(sign)) articulations.push(sign)
  }
  for (const notations of childrenOf(note, 'notations'))
    for (const element of notations.children) {
      const { type, number = '1' } = element.attributes
      switch (element.name) {
        case 'tied':
          if (type === 'start') tiesTo = true
          if (type === 'stop') tiesFrom = true
          break
        case 'slur':
          if (type === 'start' || type === 'stop') ends.push({ of: 'slur', number, type })
          break
        case 'glissando':
        case 'slide':
          if (type === 'start' || type === 'stop')
            ends.push({ of: 'glissando', number: `${element.name} ${number}`, type })
          break
        case 'tuplet':
          if (type === 'start') tupletStarts = true
          if (type === 'stop') tupletStops = true
          break
        case 'fermata':
          add('fermata')
          break
        case 'arpeggiate':
          add('rolled')
          break
        case 'articulations':
        case 'ornaments':
        case 'technical':
          for (const sign of element.children) {
            if (sign.name === 'fingering') {
              if (sign.text.trim()) fingerings.push(sign.text.trim())
            } else if (sign.name === 'tremolo') {
              if ((sign.attributes.type ?? 'single') === 'single') add('tremolo')
              else unknown.push('tremolo between two notes')
            } else if (sign.name === 'wavy-line' || sign.name === 'accidental-mark') {
              // Belongs to the trill it stands with.
            } else if (signOf[sign.name] !== undefined) {
              const known = signOf[sign.name]!
              if ((known === 'open' || known === 'closed') && !isPercussion) unknown.push(sign.name)
              else add(known)
            } else unknown.push(sign.name)
          }
          break
        case 'dynamics':
          // Read with the directions.
          break
        default:
          unknown.push(element.name)
      }
    }
  for (const tie of childrenOf(note, 'tie')) {
    if (tie.attributes.type === 'start') tiesTo = true
    if (tie.attributes.type === 'stop') tiesFrom = true
  }
  return { articulations, fingerings, ends, tiesTo, tiesFrom, tupletStarts, tupletStops, unknown }
}
