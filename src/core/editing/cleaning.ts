import { number } from '../effects/settings'
import { noteEndTicks } from '../event/note'
import { untilEndOf } from './lengths'
import { defineOperation, mergeSame } from './operation'

export const removeDoubles = defineOperation({
  title: 'Remove doubles',
  group: 'clean',
  says: 'a key struck again at once; the longer and louder of the two stays',
  balance: 'shrinks',
  fields: { withinMs: number('within', [0, 200], 30, 'ms', 5) },
  edit: (notes, { withinMs }, context) =>
    mergeSame(
      notes,
      context,
      (last, note) =>
        context.tempoMap.msAt(note.onsetTicks) - context.tempoMap.msAt(last.onsetTicks) <= withinMs,
      (last, note) => ({
        ...untilEndOf(last, note),
        velocity: Math.max(last.velocity, note.velocity),
      }),
    ),
})

export const removeGlitches = defineOperation({
  title: 'Remove glitches',
  group: 'clean',
  says: 'what is shorter or quieter than anybody means',
  balance: 'shrinks',
  fields: {
    shorterMs: number('shorter than', [0, 200], 20, 'ms'),
    quieter: number('or quieter than velocity', [0, 60], 3),
  },
  edit(notes, { shorterMs, quieter }, context) {
    const { tempoMap, ids } = context
    const kept = notes.filter(
      (note) =>
        !ids.has(note.id) ||
        (note.velocity >= quieter &&
          tempoMap.msAt(noteEndTicks(note)) - tempoMap.msAt(note.onsetTicks) >= shorterMs),
    )
    return { notes: kept, changed: notes.length - kept.length, left: 0 }
  },
})

export const removeNotes = defineOperation({
  title: 'Delete',
  group: 'clean',
  says: 'what is selected',
  balance: 'shrinks',
  fields: {},
  edit(notes, _, { ids }) {
    const kept = notes.filter(({ id }) => !ids.has(id))
    return { notes: kept, changed: notes.length - kept.length, left: 0 }
  },
})
