import type { HandSign, WrittenLevel } from '@/core/notation/amendments/amendment'
import type { Stroke } from '@/core/notation/amendments/stroke'

/** A stroke of the pen as it is offered: what it is called, how it looks, and its key. */
export interface OfferedStroke {
  readonly name: string
  /** A sign of engraved music, or a short word. */
  readonly looks: string
  /** As the keyboard gives it (`KeyboardEvent.key`); null: only by its button. */
  readonly key: string | null
  readonly stroke: Stroke
}

const sign = (name: HandSign, looks: string, key: string | null = null): OfferedStroke => ({
  name,
  looks,
  key,
  stroke: { to: 'sign', sign: name },
})

export const values: readonly OfferedStroke[] = [
  { name: 'whole', looks: '𝅝', key: '1', stroke: { to: 'value', type: 'whole' } },
  { name: 'half', looks: '𝅗𝅥', key: '2', stroke: { to: 'value', type: 'half' } },
  { name: 'quarter', looks: '♩', key: '4', stroke: { to: 'value', type: 'quarter' } },
  { name: 'eighth', looks: '♪', key: '8', stroke: { to: 'value', type: 'eighth' } },
  { name: 'sixteenth', looks: '𝅘𝅥𝅯', key: '6', stroke: { to: 'value', type: '16th' } },
  { name: 'thirty-second', looks: '𝅘𝅥𝅰', key: '3', stroke: { to: 'value', type: '32nd' } },
  { name: 'dotted, or not', looks: '♩.', key: '.', stroke: { to: 'dot' } },
  { name: 'tied to the next of its pitch, or not', looks: 'tie', key: '+', stroke: { to: 'tie' } },
]

export const tuplets: readonly OfferedStroke[] = [
  { name: 'three in the time of two', looks: '3', key: '*', stroke: { to: 'tuplet', actual: 3 } },
  { name: 'five in the time of four', looks: '5', key: null, stroke: { to: 'tuplet', actual: 5 } },
  { name: 'six in the time of four', looks: '6', key: null, stroke: { to: 'tuplet', actual: 6 } },
  { name: 'seven in the time of four', looks: '7', key: null, stroke: { to: 'tuplet', actual: 7 } },
  { name: 'no tuplet', looks: 'even', key: null, stroke: { to: 'tuplet', actual: null } },
]

export const signs: readonly OfferedStroke[] = [
  sign('staccato', '•', "'"),
  sign('tenuto', '–', '-'),
  sign('accent', '>', '!'),
  sign('marcato', '^', '^'),
  sign('staccatissimo', '▾'),
  sign('fermata', '𝄐', '@'),
  sign('breath', '’'),
  sign('trill', 'tr', '~'),
  sign('upper mordent', 'm ↑'),
  sign('lower mordent', 'm ↓'),
  sign('turn', '𝆗'),
  sign('tremolo', '≡'),
  sign('rolled', '𝆃'),
  sign('down bow', 'bow ↓'),
  sign('up bow', 'bow ↑'),
]

export const levels: readonly WrittenLevel[] = [
  'ppp',
  'pp',
  'p',
  'mp',
  'mf',
  'f',
  'ff',
  'fff',
  'fp',
  'sf',
  'sfz',
]

export const curves: readonly OfferedStroke[] = [
  { name: 'slur from the first to the last, or none', looks: 'slur', key: '(', stroke: { to: 'slur' } },
  {
    name: 'growing louder',
    looks: '<',
    key: '<',
    stroke: { to: 'hairpin', kind: 'crescendo' },
  },
  {
    name: 'growing softer',
    looks: '>',
    key: '>',
    stroke: { to: 'hairpin', kind: 'diminuendo' },
  },
  { name: 'no hairpin', looks: 'none', key: null, stroke: { to: 'hairpin', kind: null } },
]

export const places: readonly OfferedStroke[] = [
  { name: 'another name of the pitch', looks: '♯ ♭', key: '=', stroke: { to: 'name' } },
  { name: 'on the other staff', looks: 'staff', key: '\\', stroke: { to: 'staff' } },
]

export const ofBars: readonly OfferedStroke[] = [
  { name: 'these bars twice, or once', looks: '𝄆 𝄇', key: ':', stroke: { to: 'repeat' } },
  { name: 'the first time', looks: '1.', key: null, stroke: { to: 'ending', time: 1 } },
  { name: 'the second time', looks: '2.', key: null, stroke: { to: 'ending', time: 2 } },
  {
    name: 'a line begins here on paper, or not',
    looks: 'line',
    key: null,
    stroke: { to: 'break', of: 'line' },
  },
  {
    name: 'a page begins here on paper, or not',
    looks: 'page',
    key: null,
    stroke: { to: 'break', of: 'page' },
  },
]

/** The strokes that have a key, by it. */
export const strokesByKey: ReadonlyMap<string, OfferedStroke> = new Map(
  [...values, ...tuplets, ...signs, ...curves, ...places, ...ofBars].flatMap((each) =>
    each.key === null ? [] : [[each.key, each]],
  ),
)

/** Keys that do more than one stroke; they are said with the others in the help. */
export const otherKeys: readonly (readonly [keys: string, does: string])[] = [
  ['[ ]', 'earlier or later by the smallest value, as it is written'],
  ['/', 'into the next voice of the staff'],
  ['Page up, Page down', 'the level at the note: louder, softer'],
  ['Alt+up, Alt+down', 'what was played: a semitone; with Shift an octave'],
  ['Alt+left, Alt+right', 'what was played: earlier, later by the smallest value'],
  ['Insert', 'a new note in a rest, or into the chord'],
  ['Delete', 'take the note out of what was played; do not print the rest'],
  ['Shift+arrows, Shift+press', 'choose all from here to there'],
  ['Ctrl+A, Ctrl+Shift+A', 'choose the bar of the staff; of all parts'],
  ['Enter', 'play from here'],
  ['Tab', 'to the marks of what is chosen; Escape goes back to the page'],
]
