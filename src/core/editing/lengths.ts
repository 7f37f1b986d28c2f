import { choice, noteValueNames, noteValues, number } from '../effects/settings'
import { type Note, noteEndTicks } from '../event/note'
import { lastTick, type Ticks } from '../time/units'
import { defineOperation, editEach, inOrder, mergeSame, withNote } from './operation'

/** No note gets shorter than this: 0.6 ms at 120 bpm, still to be seen and taken hold of. */
export const shortestTicks: Ticks = 12

const percent = '%'

export const legato = defineOperation({
  title: 'Legato',
  group: 'length',
  says: 'each note lasts until the next one begins; chords stay together',
  balance: 'stays',
  fields: { gapMs: number('gap', [-100, 400], 0, 'ms', 5) },
  edit(notes, { gapMs }, context) {
    const { tempoMap } = context
    const chosen = notes.filter(({ id }) => context.ids.has(id))
    // What begins within this of each other is one chord.
    const chordMs = 30
    const nextOnset = new Map<number, Ticks>()
    let after: Ticks | null = null
    let group: Ticks | null = null
    for (let index = chosen.length - 1; index >= 0; index--) {
      const { id, onsetTicks } = chosen[index]!
      if (group !== null && tempoMap.msAt(group) - tempoMap.msAt(onsetTicks) > chordMs) after = group
      if (group === null || after === group) group = onsetTicks
      if (after !== null) nextOnset.set(id, after)
    }
    return editEach(notes, context, (note) => {
      const next = nextOnset.get(note.id)
      if (next === undefined) return note
      const endTicks = Math.round(tempoMap.ticksAt(tempoMap.msAt(next) - gapMs))
      return withNote(note, { durationTicks: Math.max(shortestTicks, endTicks - note.onsetTicks) })
    })
  },
})

export const fixedLength = defineOperation({
  title: 'Fixed length',
  group: 'length',
  says: 'every note gets one length',
  balance: 'stays',
  fields: {
    value: choice('length', noteValueNames, '1/8'),
    share: number('held for', [5, 200], 100, percent),
  },
  edit: (notes, { value, share }, context) =>
    editEach(notes, context, (note) =>
      withNote(note, {
        durationTicks: Math.max(shortestTicks, Math.round((noteValues[value] * share) / 100)),
      }),
    ),
})

export const gate = defineOperation({
  title: 'Gate',
  group: 'length',
  says: 'every note keeps this share of its length',
  balance: 'stays',
  fields: { share: number('share', [5, 400], 80, percent) },
  edit: (notes, { share }, context) =>
    editEach(notes, context, (note) =>
      withNote(note, {
        durationTicks: Math.min(
          lastTick,
          Math.max(shortestTicks, Math.round((note.durationTicks * share) / 100)),
        ),
      }),
    ),
})

export const splitNotes = defineOperation({
  title: 'Split notes',
  group: 'length',
  says: 'each note becomes several of equal length, one after the other',
  balance: 'grows',
  leftWhy: 'too short',
  fields: { parts: number('parts', [2, 16], 2) },
  edit(notes, { parts }, context) {
    let [changed, left] = [0, 0]
    const split: Note[] = []
    for (const note of notes) {
      if (!context.ids.has(note.id)) {
        split.push(note)
        continue
      }
      if (note.durationTicks < parts * shortestTicks) {
        left++
        split.push(note)
        continue
      }
      changed++
      cutAt(
        split,
        note,
        Array.from({ length: parts - 1 }, (_, index) =>
          Math.round(note.onsetTicks + (note.durationTicks * (index + 1)) / parts),
        ),
        context.nextId,
      )
    }
    return { notes: inOrder(split), changed, left }
  },
})

export const splitHere = defineOperation({
  title: 'Split at the playing position',
  group: 'length',
  says: 'notes that sound there become two',
  balance: 'grows',
  fields: {},
  edit(notes, _, context) {
    const at = Math.round(context.positionTicks)
    let changed = 0
    const split: Note[] = []
    for (const note of notes) {
      const isInside = at >= note.onsetTicks + shortestTicks && at <= noteEndTicks(note) - shortestTicks
      if (!isInside || !context.ids.has(note.id)) {
        split.push(note)
        continue
      }
      changed++
      cutAt(split, note, [at], context.nextId)
    }
    return { notes: inOrder(split), changed, left: 0 }
  },
})

/** Adds a note to a list, cut at some places inside it; the first piece keeps its number. */
function cutAt(list: Note[], note: Note, places: readonly Ticks[], nextId: () => number): void {
  let onsetTicks = note.onsetTicks
  for (let index = 0; index <= places.length; index++) {
    const endTicks = places[index] ?? noteEndTicks(note)
    list.push({
      ...note,
      id: index === 0 ? note.id : nextId(),
      onsetTicks,
      durationTicks: endTicks - onsetTicks,
    })
    onsetTicks = endTicks
  }
}

export const joinNotes = defineOperation({
  title: 'Join notes',
  group: 'length',
  says: 'notes of one key that follow each other become one',
  balance: 'shrinks',
  fields: { gapMs: number('over gaps of up to', [0, 2000], 60, 'ms', 10) },
  edit: (notes, { gapMs }, context) =>
    mergeSame(
      notes,
      context,
      (last, note) =>
        context.tempoMap.msAt(note.onsetTicks) - context.tempoMap.msAt(noteEndTicks(last)) <= gapMs,
      untilEndOf,
    ),
})

/** A note that lasts until the later of two ends. */
export function untilEndOf(last: Note, note: Note): Note {
  const endTicks = Math.max(noteEndTicks(last), noteEndTicks(note))
  return { ...last, durationTicks: endTicks - last.onsetTicks }
}
