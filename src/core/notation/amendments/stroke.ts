import type { NoteId } from '../../event/note'
import type { Ticks } from '../../time/units'
import type { Head } from '../heads'
import type { NoteValueType, Score } from '../score'
import type { Amendment, AmendmentOf, HandSign, WrittenLevel } from './amendment'

/** What a pen does to the notes that are chosen, or to their bars. */
export type Stroke =
  /** A plain value; in a tuplet the value there. */
  | { readonly to: 'value'; readonly type: NoteValueType }
  | { readonly to: 'dot' }
  /** Later (earlier when negative) by so many ticks. */
  | { readonly to: 'place'; readonly byTicks: Ticks }
  /** The chosen chords share their beat, or two beats, evenly as one of so many; null: they stand at its even parts. */
  | { readonly to: 'tuplet'; readonly actual: 3 | 5 | 6 | 7 | null }
  | { readonly to: 'tie' }
  /** The next name of the same pitch. */
  | { readonly to: 'name' }
  | { readonly to: 'line'; readonly line: number }
  | { readonly to: 'staff' }
  | { readonly to: 'sign'; readonly sign: HandSign }
  /** Empty: none. */
  | { readonly to: 'fingering'; readonly text: string }
  | { readonly to: 'level'; readonly mark: WrittenLevel | null }
  | { readonly to: 'hairpin'; readonly kind: 'crescendo' | 'diminuendo' | null }
  | { readonly to: 'slur' }
  | { readonly to: 'clef'; readonly clef: AmendmentOf<'clef'>['clef'] }
  | { readonly to: 'barLine'; readonly style: AmendmentOf<'barLine'>['style'] | null }
  | { readonly to: 'repeat' }
  | { readonly to: 'ending'; readonly time: 1 | 2 }
  | { readonly to: 'break'; readonly of: 'line' | 'page' }
  | { readonly to: 'rest' }

/** What is chosen on a page: notes, or a rest. */
export type ChosenOnPage =
  | { readonly kind: 'notes'; readonly noteIds: readonly NoteId[] }
  | { readonly kind: 'rest'; readonly partId: string; readonly voice: number; readonly tick: Ticks }

/** What a stroke changes of the page, or why it changes nothing. */
export type Drawn =
  | {
      readonly isDrawn: true
      readonly amendments: readonly Amendment[]
      readonly takenBack: readonly string[]
    }
  | { readonly isDrawn: false; readonly why: string }

/** The chosen place on a page, as strokes need it. */
export interface Chosen {
  readonly score: Score
  /** In order of onset, then pitch. */
  readonly heads: readonly Head[]
  readonly first: {
    readonly partIndex: number
    readonly bar: number
    readonly lastBar: number
    readonly staff: number
  }
  readonly rest: Extract<ChosenOnPage, { readonly kind: 'rest' }> | null
  /** What was changed by hand so far. */
  readonly existing: ReadonlyMap<string, Amendment>
  /** Where a note was played. */
  heardAt(noteId: NoteId): Ticks
}

export const refuse = (why: string): Drawn => ({ isDrawn: false, why })
export const drawn = (amendments: readonly Amendment[], takenBack: readonly string[] = []): Drawn => ({
  isDrawn: true,
  amendments,
  takenBack,
})
