import { boundedName } from '../text/bounded'
import type { Ticks } from '../time/units'
import { mostWords, type Project, type Track, type Words } from './schema'

/** Words of one track, in order, and those that belong to the whole piece where it is asked for them. */
export function wordsOf(
  { words }: Pick<Project, 'words'>,
  trackId: string | null,
  kinds: readonly Words['kind'][],
): Words[] {
  return words.filter((each) => each.trackId === trackId && kinds.includes(each.kind))
}

/** The words seen beside a track: its own, and the piece's. */
export function wordsBeside({ words }: Pick<Project, 'words'>, track: Pick<Track, 'id'>): readonly Words[] {
  return words.filter(({ trackId }) => trackId === null || trackId === track.id)
}

/** A piece with more words; in order of place. More than can be kept are refused by what checks the piece. */
export function addWords(project: Project, added: readonly Words[]): Project {
  return { ...project, words: [...project.words, ...added].sort(byPlace) }
}

/** A piece in which some words are others; null takes them away. */
export function changeWords(project: Project, of: Words, next: Words | null): Project {
  const words = project.words.flatMap((each) => (each === of ? (next ? [next] : []) : [each]))
  return { ...project, words: words.sort(byPlace) }
}

/** New words at a place. */
export function newWords(kind: Words['kind'], tick: Ticks, trackId: string | null, text: string): Words {
  return { kind, tick, trackId, text: boundedName(text) }
}

/** As many words as can be kept, from a file. */
export function firstWords(words: readonly Words[]): Words[] {
  return [...words].sort(byPlace).slice(0, mostWords)
}

const byPlace = (a: Words, b: Words) => a.tick - b.tick
