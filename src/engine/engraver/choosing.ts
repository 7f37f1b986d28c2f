import type { NoteId } from '@/core/event/note'
import type { WrittenLevel } from '@/core/notation/amendments/amendment'
import type { ChosenOnPage } from '@/core/notation/amendments/stroke'
import { type FoundChord, findChords } from '@/core/notation/chordSymbols/findChords'
import { type Head, standingIn } from '@/core/notation/heads'
import {
  type Articulation,
  isUnpitched,
  type NoteValue,
  type Score,
  type SpelledPitch,
} from '@/core/notation/score'
import type { ScoreSystem } from '@/core/notation/systems'
import type { Ticks } from '@/core/time/units'

/** What is chosen on the page, as it is written: of several notes the first, and what they have in common. */
export interface WrittenPlace {
  /** null: a rest. */
  readonly noteId: NoteId | null
  /** Heads that are chosen. */
  readonly heads: number
  /** All notes that they stand for. */
  readonly noteIds: readonly NoteId[]
  readonly trackId: string
  readonly systemIndex: number
  readonly bar: number
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly value: NoteValue
  readonly tuplet: number | null
  readonly pitch: SpelledPitch | null
  readonly staff: number
  readonly staves: number
  readonly voice: number
  /** Which of the lines of its staff. */
  readonly line: number
  readonly mergedNotes: number
  /** In small print before what it leads to, whose place this is. */
  readonly isGrace: boolean
  /** At all of the notes that are chosen. */
  readonly signs: readonly Articulation[]
  readonly fingering: string | null
  readonly level: WrittenLevel | null
}

/** What only notes have. */
const nothingAtRest = {
  noteId: null,
  heads: 0,
  noteIds: [],
  pitch: null,
  line: 1,
  mergedNotes: 0,
  isGrace: false,
  signs: [],
  fingering: null,
  level: null,
} as const

/** How what is chosen is written; null when it is filtered or not on the page. */
export function placeOf(
  score: Score,
  systems: readonly ScoreSystem[],
  chosen: ChosenOnPage,
): WrittenPlace | null {
  const standing = standingIn(score)
  const lineOfMusic = (bar: number) => systems.findIndex(({ from, to }) => bar >= from && bar < to)
  if (chosen.kind === 'rest') {
    const found = [...standing.rests].find(
      ({ partIndex, voice, onsetTicks }) =>
        score.parts[partIndex]!.id === chosen.partId && voice === chosen.voice && onsetTicks === chosen.tick,
    )
    if (!found) return null
    const { rest, partIndex, bar, staff, voice, onsetTicks } = found
    const part = score.parts[partIndex]!
    return {
      ...nothingAtRest,
      trackId: part.id,
      systemIndex: lineOfMusic(bar),
      bar: bar + 1,
      onsetTicks,
      durationTicks: rest.durationTicks,
      value: rest.value,
      tuplet: rest.tuplet?.actual ?? null,
      staff,
      staves: part.clefs.length,
      voice,
    }
  }
  const found = chosen.noteIds.flatMap((id) => standing.head(id) ?? [])
  const first = found.reduce<Head | undefined>(
    (a, b) => (a && a.onsetTicks <= b.onsetTicks ? a : b),
    undefined,
  )
  if (!first) return null
  const { note, chord, partIndex, bar, staff, voice, line, onsetTicks, endTicks, isGrace } = first
  const part = score.parts[partIndex]!
  return {
    noteId: note.noteIds[0]!,
    heads: new Set(found.map((each) => each.note)).size,
    noteIds: [...new Set(found.flatMap((each) => each.note.noteIds))],
    trackId: part.id,
    systemIndex: lineOfMusic(bar),
    bar: bar + 1,
    onsetTicks,
    durationTicks: endTicks - onsetTicks,
    value: chord.value,
    tuplet: chord.tuplet?.actual ?? null,
    pitch: isUnpitched(part) ? null : note.pitch,
    staff,
    staves: part.clefs.length,
    voice,
    line,
    mergedNotes: note.noteIds.length - 1,
    isGrace,
    signs: chord.articulations.filter((sign) =>
      found.every((each) => each.chord.articulations.includes(sign)),
    ),
    fingering: note.fingering,
    level: part.dynamics.levels.find(({ tick }) => tick === onsetTicks)?.mark ?? null,
  }
}

/** Noteheads of a stretch of bars, counted from 1: of one staff of a part, or of all parts. */
export function notesIn(
  score: Score,
  fromBar: number,
  toBar: number,
  of: { readonly trackId: string; readonly staff: number } | null,
): readonly NoteId[] {
  const { parts } = score
  return [...standingIn(score).heads].flatMap(({ bar, partIndex, staff, note }) =>
    bar + 1 >= fromBar &&
    bar + 1 <= toBar &&
    (of === null || (parts[partIndex]!.id === of.trackId && staff === of.staff))
      ? [note.noteIds[0]!]
      : [],
  )
}

/** Noteheads from one to another: on their staves and those between, from the earlier to the later. */
export function notesBetween(score: Score, from: NoteId, to: NoteId): readonly NoteId[] {
  const standing = standingIn(score)
  const [a, b] = [standing.head(from), standing.head(to)]
  if (!a || !b) return [to]
  const rank = ({ partIndex, staff }: Head) => partIndex * 4 + staff
  const [low, high] = [Math.min(rank(a), rank(b)), Math.max(rank(a), rank(b))]
  const [first, last] = [Math.min(a.onsetTicks, b.onsetTicks), Math.max(a.onsetTicks, b.onsetTicks)]
  return [...standing.heads].flatMap((head) =>
    rank(head) >= low && rank(head) <= high && head.onsetTicks >= first && head.onsetTicks <= last
      ? [head.note.noteIds[0]!]
      : [],
  )
}

/** Symbols of the chords that sound on a page. */
export function chordsOf(score: Score): readonly FoundChord[] {
  const notes = [...standingIn(score).heads].flatMap(({ partIndex, note, onsetTicks, endTicks, isGrace }) =>
    isGrace || isUnpitched(score.parts[partIndex]!) ? [] : [{ key: note.key, onsetTicks, endTicks }],
  )
  return findChords(notes, score.measures, score.keys)
}
