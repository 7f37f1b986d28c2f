import fc from 'fast-check'
import { createDemo } from '../demo/harbourEvening'
import { amend } from '../project/amend'
import { pieceAsWritten } from '../project/asWritten'
import { soundingNotes } from '../project/create'
import { misfit } from '../project/fit'
import { scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { noteAt, pieceWith } from '../project/trackWith.testing'
import { expectedScoreNotes } from '../proof/expected'
import { TICKS_PER_QUARTER as quarter } from '../time/units'
import type { Amendment, HandSign } from './amendments/amendment'

const tune = (velocity = 80) =>
  pieceWith(
    Array.from({ length: 8 }, (_, beat) =>
      noteAt(beat + 1, beat, 60 + beat, { velocity, onsetTicks: beat * quarter + 150 }),
    ),
  )
const heard = (project: Project, ...amendments: readonly Amendment[]) => {
  const written = amend(project, amendments)
  return soundingNotes(pieceAsWritten(written, scoreOf(written)).tracks[0]!)
}
const sign = (noteId: number, name: HandSign): Amendment => ({
  aspect: 'sign',
  noteId,
  sign: name,
  isOn: true,
})

test('notes sound on their place, for nine tenths of their value', () => {
  const notes = heard(tune())
  expect(notes.map(({ onsetTicks }) => onsetTicks)).toEqual(notes.map((_, beat) => beat * quarter))
  expect(notes[1]!.durationTicks).toBe(quarter * 0.9)
})

test.each([
  ['staccato', 0.5],
  ['staccatissimo', 0.25],
  ['tenuto', 1],
] as const)('%s sounds for %f of its value', (name, share) => {
  expect(heard(tune(), sign(2, name)).find(({ id }) => id === 2)!.durationTicks).toBe(quarter * share)
})

test('slurs bind, but not their last note', () => {
  const notes = heard(tune(), { aspect: 'slur', noteId: 2, toNoteId: 4 })
  expect(notes.slice(1, 4).map(({ durationTicks }) => durationTicks / quarter)).toEqual([1, 1, 0.9])
})

test('levels, hairpins and accents are force', () => {
  const notes = heard(
    tune(),
    { aspect: 'level', noteId: 1, mark: 'pp' },
    { aspect: 'level', noteId: 5, mark: 'ff' },
    { aspect: 'hairpin', noteId: 1, to: { noteId: 4, kind: 'crescendo' } },
    { aspect: 'level', noteId: 7, mark: 'sfz' },
    sign(6, 'accent'),
  ).map(({ velocity }) => velocity)
  expect(notes[0]).toBe(34)
  expect(notes[4]).toBe(108)
  for (let beat = 1; beat < 5; beat++) expect(notes[beat]!).toBeGreaterThan(notes[beat - 1]!)
  expect(notes[5]).toBe(124)
  expect(notes[6]).toBe(112)
  expect(notes[7]).toBe(108)
})

test('a trill goes to the next step of the key and back, a mordent once', () => {
  const inG: Project = { ...tune(), keys: [{ tick: 0, fifths: 1, mode: 'major' }] }
  const trill = heard(inG, sign(5, 'trill')).filter(
    ({ onsetTicks }) => onsetTicks >= 4 * quarter && onsetTicks < 5 * quarter,
  )
  // E, in G major: its next step is F sharp.
  expect(new Set(trill.map(({ key }) => key))).toEqual(new Set([64, 66]))
  expect(trill.length).toBeGreaterThan(4)
  const mordent = heard(inG, sign(5, 'upper mordent')).filter(
    ({ onsetTicks }) => onsetTicks >= 4 * quarter && onsetTicks < 5 * quarter,
  )
  expect(mordent.map(({ key }) => key)).toEqual([64, 66, 64])
})

test('the demo as it is written has each head once, on its place, and can be kept', () => {
  const { project } = createDemo('demo', 0, 'computer-keyboard')
  const plain = { ...project, scoreSettings: { ...project.scoreSettings, readsOrnaments: false } }
  const score = scoreOf(plain)
  const written = pieceAsWritten(plain, score)
  expect(misfit(written, plain)).toBeNull()
  const heads = expectedScoreNotes(score)
  for (const [index, part] of score.parts.entries()) {
    const expected = heads
      .filter(({ partIndex }) => partIndex === index)
      .flatMap(({ notes }) => notes.map(({ onsetTicks, key }) => [onsetTicks, key]))
    const track = written.tracks.find(({ id }) => id === part.id)!
    const sounding = soundingNotes(track).map(({ onsetTicks, key }) => [onsetTicks, key])
    const inOrder = (list: number[][]) => list.sort((a, b) => a[0]! - b[0]! || a[1]! - b[1]!)
    expect(inOrder(sounding)).toEqual(inOrder(expected))
  }
})

test('any piece with any signs sounds within bounds, each of its notes at one moment', () => {
  const note = fc.record({ beat: fc.integer({ min: 0, max: 12 }), key: fc.integer({ min: 30, max: 90 }) })
  const names = fc.array(
    fc.tuple(
      fc.integer({ min: 1, max: 12 }),
      fc.constantFrom<HandSign>('trill', 'turn', 'tremolo', 'rolled', 'fermata', 'staccato'),
    ),
  )
  fc.assert(
    fc.property(fc.array(note, { minLength: 1, maxLength: 12 }), names, (list, signs) => {
      const piece = pieceWith(
        list
          .map(({ beat, key }, index) => noteAt(index + 1, beat, key))
          .sort((a, b) => a.onsetTicks - b.onsetTicks),
      )
      const written = amend(
        piece,
        signs.map(([id, name]) => sign(id, name)),
      )
      const sounding = pieceAsWritten(written, scoreOf(written))
      expect(misfit(sounding, written)).toBeNull()
      const ids = soundingNotes(sounding.tracks[0]!).map(({ id }) => id)
      expect(new Set(ids).size).toBe(ids.length)
    }),
    { numRuns: 60 },
  )
})
