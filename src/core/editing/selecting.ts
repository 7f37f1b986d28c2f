import type { Note, NoteId } from '../event/note'
import { noteEndTicks } from '../event/note'
import type { TempoMap } from '../time/tempoMap'
import type { Stretch } from '../time/timeSchemas'
import type { Milliseconds } from '../time/units'

/** Which notes are meant. */
export type Criterion =
  | { readonly by: 'all' }
  | { readonly by: 'keys'; readonly keys: ReadonlySet<number> }
  | { readonly by: 'voice'; readonly voice: number | null }
  | { readonly by: 'stretch'; readonly stretch: Stretch }
  | { readonly by: 'quieter'; readonly thanVelocity: number }
  | { readonly by: 'louder'; readonly thanVelocity: number }
  | { readonly by: 'shorter'; readonly thanMs: Milliseconds }
  /** Every n-th, beginning with the first. */
  | { readonly by: 'every'; readonly nth: number }
  /** What is not selected. */
  | { readonly by: 'others' }

/**
 * The notes of a list that are meant, within those that are given.
 *
 * @param among only of these; null: of all
 */
export function selectBy(
  notes: readonly Note[],
  criterion: Criterion,
  tempoMap: TempoMap,
  among: ReadonlySet<NoteId> | null,
): NoteId[] {
  if (criterion.by === 'others') return notes.filter(({ id }) => !among?.has(id)).map(({ id }) => id)
  const candidates = among ? notes.filter(({ id }) => among.has(id)) : notes
  return candidates.filter((note, index) => isMeant(note, index, criterion, tempoMap)).map(({ id }) => id)
}

function isMeant(
  note: Note,
  index: number,
  criterion: Exclude<Criterion, { by: 'others' }>,
  tempoMap: TempoMap,
): boolean {
  switch (criterion.by) {
    case 'all':
      return true
    case 'keys':
      return criterion.keys.has(note.key)
    case 'voice':
      return (note.voice ?? null) === criterion.voice
    case 'stretch':
      return note.onsetTicks >= criterion.stretch.startTicks && note.onsetTicks < criterion.stretch.endTicks
    case 'quieter':
      return note.velocity < criterion.thanVelocity
    case 'louder':
      return note.velocity > criterion.thanVelocity
    case 'shorter':
      return tempoMap.msAt(noteEndTicks(note)) - tempoMap.msAt(note.onsetTicks) < criterion.thanMs
    case 'every':
      return index % Math.max(1, criterion.nth) === 0
  }
}
