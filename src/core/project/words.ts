import { boundedName } from '../text/bounded'
import type { Ticks } from '../time/units'
import { notesAsPlayed } from './create'
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

/**
 * Gives tracks that were made of others the words of these: each to the track that begins a note where it stands, else to the first.
 * The sources keep theirs, as they keep their notes.
 */
export function carryWords(project: Project, fromIds: readonly string[], made: readonly Track[]): Project {
  const own = project.words.filter(({ trackId }) => trackId !== null && fromIds.includes(trackId))
  const first = made[0]
  if (own.length === 0 || !first) return project
  const onsetsOf = made.map((track) => new Set(notesAsPlayed(track).map(({ onsetTicks }) => onsetTicks)))
  return addWords(
    project,
    own.map((words) => {
      const singer = made[onsetsOf.findIndex((onsets) => onsets.has(words.tick))] ?? first
      return { ...words, trackId: singer.id }
    }),
  )
}

/** Words of a track from a place on go to another, as their notes did. */
export function moveWords(project: Project, fromId: string, toId: string, fromTicks: Ticks): Project {
  const words = project.words.map((each) =>
    each.trackId === fromId && each.tick >= fromTicks ? { ...each, trackId: toId } : each,
  )
  return { ...project, words }
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
