import { choice, KeyScale, key, number, scaleNames, tonics } from '../effects/settings'
import type { Note } from '../event/note'
import { defineOperation, editEach, withNote } from './operation'

const onKeyboard = (note: Note, keyNumber: number): Note | null =>
  keyNumber < 0 || keyNumber > 127 ? null : withNote(note, { key: keyNumber })

const edge = 'at the edge'

export const transpose = defineOperation({
  title: 'Transpose',
  group: 'pitch',
  says: 'up or down by semitones and octaves',
  balance: 'stays',
  leftWhy: edge,
  fields: { octaves: number('octaves', [-8, 8], 0), semitones: number('semitones', [-24, 24], 0) },
  edit: (notes, { octaves, semitones }, context) =>
    editEach(notes, context, (note) => onKeyboard(note, note.key + octaves * 12 + semitones)),
})

/** Notes outside a scale either stay, so that the way back is exact, or move as the note of the scale below them. */
const outside = choice('notes outside', ['move along', 'stay'], 'move along')

export const transposeInScale = defineOperation({
  title: 'Transpose in a scale',
  group: 'pitch',
  says: 'up or down by steps of a scale',
  balance: 'stays',
  leftWhy: `${edge} or outside the scale`,
  fields: {
    steps: number('steps', [-28, 28], 2),
    tonic: choice('tonic', tonics, 'C'),
    scale: choice('scale', scaleNames, 'major'),
    outside,
  },
  edit(notes, { steps, tonic, scale: name, outside: how }, context) {
    const scale = new KeyScale(tonic, name)
    return editEach(notes, context, (note) => {
      const degree = scale.degreeAtOrBelow(note.key)
      const off = note.key - scale.keyOf(degree)
      return off > 0 && how === 'stay' ? null : onKeyboard(note, scale.keyOf(degree + steps) + off)
    })
  },
})

export const upsideDown = defineOperation({
  title: 'Upside down',
  group: 'pitch',
  says: 'mirrored at a key: what rose falls',
  balance: 'stays',
  leftWhy: edge,
  fields: { axis: key('mirrored at', 60) },
  edit: (notes, { axis }, context) =>
    editEach(notes, context, (note) => onKeyboard(note, 2 * axis - note.key)),
})

export const upsideDownInScale = defineOperation({
  title: 'Upside down in a key',
  group: 'pitch',
  says: 'mirrored by steps of a scale, so that it stays in the key',
  balance: 'stays',
  leftWhy: `${edge} or outside the scale`,
  fields: {
    axis: key('mirrored at', 60),
    tonic: choice('tonic', tonics, 'C'),
    scale: choice('scale', scaleNames, 'major'),
  },
  edit(notes, { axis, tonic, scale: name }, context) {
    const scale = new KeyScale(tonic, name)
    const middle = scale.degreeAtOrBelow(axis)
    return editEach(notes, context, (note) =>
      scale.has(note.key)
        ? onKeyboard(note, scale.keyOf(2 * middle - scale.degreeAtOrBelow(note.key)))
        : null,
    )
  },
})
