import { keyName, mostLines } from '../event/note'
import type { BeatsPerMinute, Milliseconds } from '../time/units'
import { drumOf, strokeOf } from './drumKit'
import { separateVoices } from './voices/separateVoices'
import { splitHands } from './voices/splitHands'
import type { LineNote } from './voices/strokes'
import { unsureNotes } from './voices/unsure'
import { countVoices } from './voices/voiceCount'

/** By what the notes of one player are told apart. */
export type Way =
  | { readonly by: 'channel' }
  /** By who played. */
  | { readonly by: 'source' }
  /** By the voice each note was told to be in. */
  | { readonly by: 'told' }
  | { readonly by: 'voice'; readonly voices: number | 'found' }
  | { readonly by: 'hand' }
  /** Melody, bass, and what lies between. */
  | { readonly by: 'line' }
  /** Parts begin at these keys, and below the lowest of them. */
  | { readonly by: 'key'; readonly atKeys: readonly number[] }
  /** By the instruments of a kit, or by its single keys. */
  | { readonly by: 'drum'; readonly isEachKey?: boolean }
  /** Main strokes, and ghost notes under a velocity. */
  | { readonly by: 'force'; readonly underVelocity: number }

export interface NoteToPart extends LineNote {
  readonly velocity: number
  readonly channel?: number
  /** Who played it, by name. */
  readonly source?: string
  /** The voice it was told to be in. */
  readonly voice?: number
  /** Somebody put it there: it stays. */
  readonly isVoiceByHand?: boolean
}

export interface Part {
  readonly name: string
  /** Indexes of its notes, in the order they were given. */
  readonly members: readonly number[]
  /** Where parts are voices, its number. */
  readonly voice?: number
}

export interface TakenApart {
  /** From the highest part down, drums by name; each note is in exactly one, and none is empty. */
  readonly parts: readonly Part[]
  /** Indexes of notes that might as well belong to another part. */
  readonly unsure: readonly number[]
}

/** Notes that begin within this of each other are taken as struck together. */
const togetherMs: Milliseconds = 48

/** The same in quarters, at a tempo. */
export function togetherQuartersAt(tempoBpm: BeatsPerMinute): number {
  return togetherMs / (60_000 / tempoBpm)
}

/**
 * Takes the notes of one player apart.
 *
 * @param togetherQuarters notes that begin within this of each other are struck together
 */
export function takeApart(notes: readonly NoteToPart[], way: Way, togetherQuarters: number): TakenApart {
  switch (way.by) {
    case 'channel':
      return sure(partsBy(notes, ({ channel = 1 }) => `channel ${channel}`, byName))
    case 'source':
      return sure(partsBy(notes, ({ source = 'nobody' }) => source, byName))
    case 'told':
      return sure(numbered(partsBy(notes, ({ voice }) => (voice ? `voice ${voice}` : 'no voice'), byName)))
    case 'voice': {
      const asked = way.voices === 'found' ? countVoices(notes, togetherQuarters) : way.voices
      const pinned = notes.map(({ voice, isVoiceByHand }) => (isVoiceByHand ? (voice ?? null) : null))
      const highest = pinned.reduce<number>((most, voice) => Math.max(most, voice ?? 0), 1)
      const voices = Math.max(highest, Math.min(mostLines, asked))
      const voiceOf = separateVoices(notes, { voices, togetherQuarters, pinned })
      return {
        parts: numbered(partsBy(notes, (_, index) => `voice ${voiceOf[index]}`, byName)),
        unsure: unsureNotes(notes, voiceOf, togetherQuarters).filter((index) => pinned[index] === null),
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
      return sure(partsBy(notes, ({ key }) => (way.isEachKey ? strokeOf(key) : drumOf(key)), byName))
    case 'force': {
      const names = ['main strokes', 'ghost notes']
      return sure(
        partsBy(notes, ({ velocity }) => names[velocity < way.underVelocity ? 1 : 0]!, inOrder(names)),
      )
    }
  }
}

/** Parts that are voices, with the numbers in their names. */
function numbered(parts: readonly Part[]): Part[] {
  return parts.map((part) => {
    const voice = Number(/^voice (\d+)$/.exec(part.name)?.[1])
    return voice > 0 ? { ...part, voice } : part
  })
}

const sure = (parts: readonly Part[]): TakenApart => ({ parts, unsure: [] })
const byName = (a: string, b: string) => a.localeCompare(b, 'en', { numeric: true })
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
