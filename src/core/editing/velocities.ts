import { chance } from '../effects/chance'
import { number } from '../effects/settings'
import { defineOperation, editEach, withNote } from './operation'

/** A velocity that can be played: 1 to 127. */
export function playable(velocity: number): number {
  return Math.max(1, Math.min(127, Math.round(velocity)))
}

export const setVelocity = defineOperation({
  title: 'Set velocity',
  group: 'force',
  says: 'every note as loud',
  balance: 'stays',
  fields: { velocity: number('velocity', [1, 127], 84) },
  edit: (notes, { velocity }, context) => editEach(notes, context, (note) => withNote(note, { velocity })),
})

export const scaleVelocity = defineOperation({
  title: 'Scale velocity',
  group: 'force',
  says: 'louder or softer in proportion',
  balance: 'stays',
  fields: { share: number('to', [5, 300], 110, '%') },
  edit: (notes, { share }, context) =>
    editEach(notes, context, (note) => withNote(note, { velocity: playable((note.velocity * share) / 100) })),
})

export const rampVelocity = defineOperation({
  title: 'Ramp velocity',
  group: 'force',
  says: 'along a line from the first note to the last',
  balance: 'stays',
  fields: { from: number('from', [1, 127], 40), to: number('to', [1, 127], 110) },
  edit(notes, { from, to }, context) {
    let [first, last] = [Number.POSITIVE_INFINITY, 0]
    for (const { id, onsetTicks } of notes)
      if (context.ids.has(id)) [first, last] = [Math.min(first, onsetTicks), Math.max(last, onsetTicks)]
    const span = Math.max(1, last - first)
    return editEach(notes, context, (note) =>
      withNote(note, { velocity: playable(from + ((to - from) * (note.onsetTicks - first)) / span) }),
    )
  },
})

export const evenVelocity = defineOperation({
  title: 'Even velocity',
  group: 'force',
  says: 'towards the mean of the selection',
  balance: 'stays',
  fields: { share: number('by', [0, 100], 50, '%') },
  edit(notes, { share }, context) {
    let [sum, count] = [0, 0]
    for (const { id, velocity } of notes)
      if (context.ids.has(id)) {
        sum += velocity
        count++
      }
    const mean = sum / Math.max(1, count)
    return editEach(notes, context, (note) =>
      withNote(note, { velocity: playable(note.velocity + ((mean - note.velocity) * share) / 100) }),
    )
  },
})

export const varyVelocity = defineOperation({
  title: 'Vary velocity',
  group: 'force',
  says: 'louder and softer by chance',
  balance: 'stays',
  fields: { spread: number('by up to', [1, 60], 10) },
  edit: (notes, { spread }, context) =>
    editEach(notes, context, (note) =>
      withNote(note, {
        velocity: playable(note.velocity + (chance(context.seed, note.id, 0) * 2 - 1) * spread),
      }),
    ),
})
