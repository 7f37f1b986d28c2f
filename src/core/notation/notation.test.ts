import fc from 'fast-check'
import type { Note } from '../event/note'
import { isBalanced } from '../ledger/ledger'
import type { Instrument } from '../midi/instrument'
import { emptyProject, newClip, newTrack } from '../project/create'
import { scoreOf, scoreSourceOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { expectedScoreNotes } from '../proof/expected'
import { ScoreBuilder } from './buildScore'
import type { Score } from './score'
import type { ScoreSettings } from './scoreSettings'
import { planStaves } from './staves'
import { noteValueOf, writableLengths } from './values'

const q = 10_080
let nextId = 1
const note = (onsetQuarters: number, lengthQuarters: number, key: number, velocity = 80): Note => ({
  id: nextId++,
  onsetTicks: Math.round(onsetQuarters * q),
  durationTicks: Math.round(lengthQuarters * q),
  key,
  velocity,
  releaseVelocity: 64,
  channel: 1,
  origin: { kind: 'drawn' },
})
const piano: Instrument = { kind: 'program', program: 0 }

function projectOf(
  notes: readonly Note[],
  instrument: Instrument = piano,
  settings: Partial<ScoreSettings> = {},
): Project {
  const empty = emptyProject('p', 'P', 0)
  const sorted = [...notes].sort((a, b) => a.onsetTicks - b.onsetTicks)
  return newTrack(
    { ...empty, scoreSettings: { ...empty.scoreSettings, ...settings } },
    { name: 'Part', instrument, clips: [newClip('c', 'c', sorted)] },
  ).project
}

const anyNotes = fc
  .array(
    fc.record({
      onset: fc.integer({ min: 0, max: 16 * q }),
      duration: fc.integer({ min: 1, max: 6 * q }),
      key: fc.integer({ min: 20, max: 110 }),
      velocity: fc.integer({ min: 1, max: 127 }),
    }),
    { minLength: 1, maxLength: 70 },
  )
  .map((list) =>
    list.map(
      ({ onset, duration, key, velocity }, index): Note => ({
        id: index + 1,
        onsetTicks: onset,
        durationTicks: duration,
        key,
        velocity,
        releaseVelocity: 64,
        channel: 1,
        origin: { kind: 'drawn' },
      }),
    ),
  )

/** Full and small. */
const notesOnPage = (score: Score) =>
  expectedScoreNotes(score).reduce((sum, { notes, graceKeys }) => sum + notes.length + graceKeys.length, 0)

describe('ledger', () => {
  test('for any notes, captured = written + merged + filtered, and what is written is on the page once', () => {
    fc.assert(
      fc.property(
        anyNotes,
        fc.integer({ min: 0, max: 60 }),
        fc.integer({ min: 0, max: 200 }),
        fc.boolean(),
        (notes, minVelocity, minLengthMs, severalVoices) => {
          const score = scoreOf(projectOf(notes, piano, { minVelocity, minLengthMs, severalVoices }))
          for (const part of score.parts) {
            expect(part.ledger.captured).toBe(notes.length)
            expect(isBalanced(part.ledger)).toBe(true)
            expect(notesOnPage(score)).toBe(part.ledger.written)
            const ids = part.measures
              .flat()
              .flatMap((voice) =>
                voice.elements.flatMap((element) =>
                  element.kind === 'chord'
                    ? [...element.graces, ...element.notes]
                        .filter((each) => !each.tiesFromPrevious)
                        .flatMap((each) => each.noteIds)
                    : [],
                ),
              )
            expect(new Set(ids).size).toBe(ids.length)
            expect(ids.length).toBe(part.ledger.written + part.ledger.merged)
          }
        },
      ),
      { numRuns: 80 },
    )
  })

  test('a key that is brushed right before another is in small print, and on the page once', () => {
    const list = [
      { ...note(0, 0, 20, 1), onsetTicks: 0, durationTicks: 1 },
      { ...note(0, 0, 20, 1), onsetTicks: 40_815, durationTicks: 1 },
      { ...note(0, 0, 21, 1), onsetTicks: 41_688, durationTicks: 2_184 },
    ]
    const score = scoreOf(projectOf(list, piano, { minVelocity: 0, minLengthMs: 0, severalVoices: false }))
    expect(notesOnPage(score)).toBe(score.parts[0]!.ledger.written)
  })

  test('two voices that meet on one key are two notes, and told', () => {
    const notes = [{ ...note(0, 1, 60), voice: 1 }, { ...note(0, 2, 60), voice: 2 }, note(2, 1, 64)]
    expect(scoreOf(projectOf(notes)).parts[0]!.ledger).toMatchObject({
      captured: 3,
      written: 3,
      coincident: 1,
    })
  })

  test('quiet hits, glitches and doubles are told apart', () => {
    const notes = [note(0, 1, 60), note(0.01, 1, 60), note(1, 1, 62, 1), note(2, 0.01, 64), note(3, 1, 65)]
    expect(scoreOf(projectOf(notes)).parts[0]!.ledger).toEqual({
      captured: 5,
      written: 2,
      merged: 1,
      coincident: 0,
      filtered: [
        { reason: 'too quiet', count: 1 },
        { reason: 'too short', count: 1 },
      ],
    })
  })
})

describe('measures', () => {
  test('for any notes, every voice fills its measure exactly and begins and ends tuplets in pairs', () => {
    fc.assert(
      fc.property(
        anyNotes,
        fc.constantFrom([4, 4], [3, 4], [6, 8], [7, 8], [2, 2], [5, 4]),
        fc.constantFrom(8, 16, 32),
        (notes, [numerator, denominator], smallestValue) => {
          const project = projectOf(notes, piano, { smallestValue: smallestValue as 16 })
          const score = scoreOf({
            ...project,
            meters: [{ tick: 0, numerator: numerator!, denominator: denominator as 4 }],
          })
          for (const part of score.parts)
            for (const [bar, voices] of part.measures.entries())
              for (const voice of voices) {
                let position = 0
                let open = 0
                for (const element of voice.elements) {
                  expect(element.startTicks).toBe(position)
                  position += element.durationTicks
                  if (element.kind === 'rest' && element.isWholeMeasure) continue
                  const written = {
                    whole: 4,
                    half: 2,
                    quarter: 1,
                    eighth: 0.5,
                    '16th': 0.25,
                    '32nd': 0.125,
                    '64th': 0.0625,
                    '128th': 0.03125,
                  }[element.value.type]
                  const ratio = element.tuplet ? element.tuplet.normal / element.tuplet.actual : 1
                  expect(element.durationTicks).toBeCloseTo(
                    written * q * (element.value.dots ? 1.5 : 1) * ratio,
                    6,
                  )
                  open += (element.tuplet?.starts ? 1 : 0) - (element.tuplet?.stops ? 1 : 0)
                  expect(open).toBe(element.tuplet && !element.tuplet.stops ? 1 : 0)
                }
                expect(position).toBe(score.measures[bar]!.lengthTicks)
                expect(open).toBe(0)
              }
        },
      ),
      { numRuns: 80 },
    )
  })

  const common = { numerator: 4, denominator: 4, lengthTicks: 4 * q }
  // Common practice, no source.
  test.each([
    ['a dotted half', 0, 3, [3]],
    ['a quarter on the off-beat is a syncopation', 0.5, 1.5, [1]],
    ['but not over the middle of the bar', 1.5, 2.5, [0.5, 0.5]],
    ['five eighths', 0, 2.5, [2, 0.5]],
    ['sixteenth before the beat tied over', 0.75, 2, [0.25, 1]],
  ])('%s', (_, start, end, lengths) => {
    expect(writableLengths(start * q, end * q, common, false).map((length) => length / q)).toEqual(lengths)
  })

  test('rests show the beats', () => {
    expect(writableLengths(1 * q, 4 * q, common, true).map((length) => length / q)).toEqual([1, 2])
    expect(writableLengths(0.25 * q, 2 * q, common, true).map((length) => length / q)).toEqual([0.25, 0.5, 1])
  })

  test('values', () => {
    expect(noteValueOf(q * 1.5)).toEqual({ type: 'quarter', dots: 1 })
    expect(noteValueOf(q * 1.25)).toBeUndefined()
  })
})

describe('the split', () => {
  test('for any notes and split, nothing below it in the upper staff, nothing from it up in the lower', () => {
    fc.assert(
      fc.property(anyNotes, fc.integer({ min: 30, max: 90 }), (notes, splitKey) => {
        const [upper, lower] = expectedScoreNotes(scoreOf(projectOf(notes, piano, { splitKey })))
        const isBoth = notes.some((each) => each.key < splitKey) && notes.some((each) => each.key >= splitKey)
        // Filtering may leave one side only; then there is one staff.
        if (!isBoth || !lower) return
        expect(upper!.notes.every((each) => each.key >= splitKey)).toBe(true)
        expect(lower.notes.every((each) => each.key < splitKey)).toBe(true)
      }),
      { numRuns: 80 },
    )
  })

  test('staves by instrument and range', () => {
    const clefs = (keys: readonly number[], instrument: Instrument) =>
      planStaves(
        keys.map((key) => note(0, 1, key)),
        instrument,
        60,
        'auto',
      ).clefs
    expect(clefs([48, 72], piano)).toEqual(['treble', 'bass'])
    expect(clefs([60, 72], piano)).toEqual(['treble'])
    expect(clefs([36, 50], piano)).toEqual(['bass'])
    expect(clefs([55, 80], { kind: 'program', program: 40 })).toEqual(['treble'])
    expect(clefs([36, 55], { kind: 'program', program: 42 })).toEqual(['bass'])
    // Guitar and bass sound an octave below their notation: common practice, no source.
    expect(clefs([40, 64], { kind: 'program', program: 24 })).toEqual(['treble 8vb'])
    expect(clefs([28, 40], { kind: 'program', program: 33 })).toEqual(['bass 8vb'])
    expect(clefs([38], { kind: 'drums' })).toEqual(['percussion'])
  })
})

test('a builder that is used again writes the same as a fresh one', () => {
  const builder = new ScoreBuilder()
  fc.assert(
    fc.property(anyNotes, anyNotes, (first, second) => {
      builder.build(scoreSourceOf(projectOf(first)))
      expect(builder.build(scoreSourceOf(projectOf(second)))).toEqual(scoreOf(projectOf(second)))
    }),
    { numRuns: 30 },
  )
})

test('a fader, a mute and a name change nothing of what is written: the part is the same object', () => {
  const builder = new ScoreBuilder()
  const notes = [note(0, 1, 60), note(1, 0.5, 64), note(1.5, 2.5, 67)]
  const project = projectOf(notes)
  const written = builder.build(scoreSourceOf(project)).parts[0]
  const [track] = project.tracks
  const mixed = {
    ...project,
    name: 'Another name',
    tracks: [{ ...track!, volume: 0.2, pan: -1, isMuted: true, name: 'Other', channel: 9 }],
  }
  expect(builder.build(scoreSourceOf(mixed)).parts[0]).toBe(written)
})
