import type { Note, NoteId } from '../../event/note'
import type { TempoMap } from '../../time/tempoMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../../time/units'

/** Signs over a note that stand for several quick ones; a tremolo is one key struck again and again. */
export type Ornament = 'trill' | 'upper mordent' | 'lower mordent' | 'turn' | 'tremolo'

/** A slide over all keys between two notes. */
export interface Glissando {
  readonly from: NoteId
  readonly to: NoteId
}

/** A part with its ornaments taken out of the notes that have a place in the bar. */
export interface Ornamented {
  /** In order of onset. */
  readonly notes: readonly Note[]
  readonly signs: ReadonlyMap<NoteId, readonly (Ornament | 'rolled')[]>
  /** The notes that a note with a sign stands for, besides itself. */
  readonly absorbed: ReadonlyMap<NoteId, readonly NoteId[]>
  /** Notes in small print before a note, in order. */
  readonly graces: ReadonlyMap<NoteId, readonly Note[]>
  readonly glissandi: readonly Glissando[]
}

export function unornamented(notes: readonly Note[]): Ornamented {
  return { notes, signs: new Map(), absorbed: new Map(), graces: new Map(), glissandi: [] }
}

/** What a finder has found: notes that are others now, and notes that are gone. */
export interface Findings extends Partial<Omit<Ornamented, 'notes'>> {
  /** Instead of the note of that name. */
  readonly instead: ReadonlyMap<NoteId, Note>
  readonly gone: ReadonlySet<NoteId>
}

/** Notes with what was found in them, and what was found before. */
export function withFindings(before: Ornamented, found: Findings): Ornamented {
  const { instead, gone } = found
  if (instead.size === 0 && gone.size === 0 && !found.signs?.size && !found.glissandi?.length) return before
  const signs = new Map(before.signs)
  for (const [id, own] of found.signs ?? []) signs.set(id, [...(signs.get(id) ?? []), ...own])
  const graces = new Map(before.graces)
  /** Those that a note had go where it goes. */
  const takeGraces = (id: NoteId) => {
    const own = graces.get(id) ?? []
    graces.delete(id)
    return own
  }
  for (const [id, own] of found.graces ?? []) {
    const row = own.flatMap((note) => [...takeGraces(note.id), note])
    graces.set(id, [...row, ...takeGraces(id)])
  }
  const absorbed = new Map(before.absorbed)
  for (const [id, ids] of found.absorbed ?? [])
    absorbed.set(id, [
      ...(absorbed.get(id) ?? []),
      ...ids.flatMap((each) => [
        each,
        ...(before.absorbed.get(each) ?? []),
        ...takeGraces(each).flatMap((grace) => [grace.id, ...(before.absorbed.get(grace.id) ?? [])]),
      ]),
    ])
  return {
    notes: before.notes
      .filter(({ id }) => !gone.has(id))
      .map((note) => instead.get(note.id) ?? note)
      .sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key),
    signs,
    absorbed,
    graces,
    glissandi: [...before.glissandi, ...(found.glissandi ?? [])],
  }
}

/** How long the smallest value that is written lasts at a place. */
export function smallestValueMs(tempoMap: TempoMap, smallestValue: number): (tick: Ticks) => Milliseconds {
  const smallestTicks = (TICKS_PER_QUARTER * 4) / smallestValue
  return (tick) => tempoMap.msAt(tick + smallestTicks) - tempoMap.msAt(tick)
}
