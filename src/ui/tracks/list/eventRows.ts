import { curveTitle } from '@/core/editing/curves'
import type { ControllerEvent, Note } from '@/core/event/note'
import type { Section, Words } from '@/core/project/schema'
import type { Ticks } from '@/core/time/units'

/** One row of the list: a note, a point of a curve or a program, something sung or written, or the name of a section. */
export type EventRow =
  | { readonly kind: 'note'; readonly tick: Ticks; readonly note: Note }
  | { readonly kind: 'event'; readonly tick: Ticks; readonly event: ControllerEvent }
  | { readonly kind: 'words'; readonly tick: Ticks; readonly words: Words }
  | { readonly kind: 'section'; readonly tick: Ticks; readonly section: Section }

export const columns = ['position', 'what', 'length', 'value', 'channel'] as const
export type Column = (typeof columns)[number]

export interface ListOrder {
  readonly by: Column
  readonly isDescending: boolean
}

/** What is listed: everything, notes, words, sections, or the events of one title ("sustain pedal (64)"). */
export type ListFilter = 'everything' | 'notes' | 'words' | 'sections' | (string & {})

/** Rows of a track that are listed, in order; at one place a section comes first, then words, events and notes. */
export function eventRows(
  notes: readonly Note[],
  events: readonly ControllerEvent[],
  sections: readonly Section[],
  words: readonly Words[],
  filter: ListFilter,
  order: ListOrder,
): readonly EventRow[] {
  const has = (what: ListFilter) => filter === 'everything' || filter === what
  const rows: EventRow[] = []
  if (has('sections'))
    for (const section of sections) rows.push({ kind: 'section', tick: section.tick, section })
  if (has('words')) for (const each of words) rows.push({ kind: 'words', tick: each.tick, words: each })
  for (const event of events)
    if (has(curveTitle(event))) rows.push({ kind: 'event', tick: event.tick, event })
  if (has('notes')) for (const note of notes) rows.push({ kind: 'note', tick: note.onsetTicks, note })
  const isByPlace = order.by === 'position'
  if (!(isByPlace && rows.length === notes.length)) {
    const compare = comparison(order.by)
    rows.sort((a, b) => compare(a, b) || a.tick - b.tick)
  }
  return order.isDescending ? rows.reverse() : rows
}

function comparison(by: Column): (a: EventRow, b: EventRow) => number {
  const numberOf = (row: EventRow): number => {
    switch (by) {
      case 'position':
        return row.tick
      case 'what':
        return row.kind === 'note'
          ? row.note.key
          : row.kind === 'event'
            ? 1000 + row.event.number
            : row.kind === 'words'
              ? 2000
              : 3000
      case 'length':
        return row.kind === 'note' ? row.note.durationTicks : 0
      case 'value':
        return row.kind === 'note' ? row.note.velocity : row.kind === 'event' ? row.event.value : 0
      case 'channel':
        return row.kind === 'note' ? row.note.channel : row.kind === 'event' ? row.event.channel : 0
    }
  }
  return (a, b) => numberOf(a) - numberOf(b)
}

/** The titles of the events a track has, for the filter. */
export function eventTitles(events: readonly ControllerEvent[]): string[] {
  return [...new Set(events.map(curveTitle))].sort()
}

/** The same row again, after an edit made new lists: by the note's number, the event or words themselves, or the section's place. */
export function isSameRow(a: EventRow, b: EventRow): boolean {
  if (a.kind === 'note') return b.kind === 'note' && a.note.id === b.note.id
  if (a.kind === 'event') return b.kind === 'event' && a.event === b.event
  if (a.kind === 'words') return b.kind === 'words' && a.words === b.words
  return b.kind === 'section' && a.section.tick === b.section.tick
}
