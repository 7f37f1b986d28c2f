import { keyName } from '../event/note'
import { drumOf } from './drumKit'
import { separateVoices } from './voices/separateVoices'
import { splitHands } from './voices/splitHands'
import type { LineNote } from './voices/strokes'
import { unsureNotes } from './voices/unsure'
import { countVoices } from './voices/voiceCount'

/** By what the notes of one player are told apart. */
export type Way =
  | { readonly by: 'voice'; readonly voices: number | 'found' }
  | { readonly by: 'hand' }
  /** Melody, bass, and what lies between. */
  | { readonly by: 'line' }
  /** Parts begin at these keys, and below the lowest of them. */
  | { readonly by: 'key'; readonly atKeys: readonly number[] }
  /** By the instruments of a kit. */
  | { readonly by: 'drum' }
  /** Main strokes, and ghost notes under a velocity. */
  | { readonly by: 'force'; readonly underVelocity: number }

export interface NoteToPart extends LineNote {
  readonly velocity: number
}

export interface Part {
  readonly name: string
  /** Indexes of its notes, in the order they were given. */
  readonly members: readonly number[]
}

export interface TakenApart {
  /** From the highest part down, drums by name; each note is in exactly one, and none is empty. */
  readonly parts: readonly Part[]
  /** Indexes of notes that might as well belong to another part. */
  readonly unsure: readonly number[]
}

/** So many lines can be asked for. */
export const mostVoicesAsked = 8

/**
 * Takes the notes of one player apart.
 *
 * @param togetherQuarters notes that begin within this of each other are struck together
 */
export function takeApart(notes: readonly NoteToPart[], way: Way, togetherQuarters: number): TakenApart {
  switch (way.by) {
    case 'voice': {
      const asked = way.voices === 'found' ? countVoices(notes, togetherQuarters) : way.voices
      const voices = Math.max(1, Math.min(mostVoicesAsked, asked))
      const voiceOf = separateVoices(notes, { voices, togetherQuarters })
      return {
        parts: partsBy(notes, (_, index) => `voice ${voiceOf[index]}`, byName),
        unsure: unsureNotes(notes, voiceOf, togetherQuarters),
      }
    }
    case 'hand': {
      const isRight = splitHands(notes, togetherQuarters)
      const names = ['right hand', 'left hand']
      return sure(partsBy(notes, (_, index) => names[isRight[index] ? 0 : 1]!, inOrder(names)))
    }
    case 'line': {
      const names = ['melody', 'accompaniment', 'bass']
      const options = { voices: 3, togetherQuarters, accompanying: new Set([2]) }
      const voiceOf = separateVoices(notes, options)
      return {
        parts: partsBy(notes, (_, index) => names[voiceOf[index]! - 1]!, inOrder(names)),
        unsure: unsureNotes(notes, voiceOf, togetherQuarters),
      }
    }
    case 'key': {
      const at = [...new Set(way.atKeys)].sort((a, b) => b - a)
      const names = [...at.map((key) => `from ${keyName(key)}`), `below ${keyName(at.at(-1) ?? 0)}`]
      const nameOf = ({ key }: NoteToPart) => names[at.findIndex((from) => key >= from)] ?? names.at(-1)!
      return sure(partsBy(notes, nameOf, inOrder(names)))
    }
    case 'drum':
      return sure(partsBy(notes, ({ key }) => drumOf(key), byName))
    case 'force': {
      const names = ['main strokes', 'ghost notes']
      return sure(
        partsBy(notes, ({ velocity }) => names[velocity < way.underVelocity ? 1 : 0]!, inOrder(names)),
      )
    }
  }
}

const sure = (parts: readonly Part[]): TakenApart => ({ parts, unsure: [] })
const byName = (a: string, b: string) => a.localeCompare(b, 'en')
const inOrder = (names: readonly string[]) => (a: string, b: string) => names.indexOf(a) - names.indexOf(b)

function partsBy(
  notes: readonly NoteToPart[],
  nameOf: (note: NoteToPart, index: number) => string,
  order: (a: string, b: string) => number,
): Part[] {
  const parts = new Map<string, number[]>()
  for (const [index, note] of notes.entries()) {
    const name = nameOf(note, index)
    const members = parts.get(name)
    if (members) members.push(index)
    else parts.set(name, [index])
  }
  return [...parts].sort(([a], [b]) => order(a, b)).map(([name, members]) => ({ name, members }))
}
