import fc from 'fast-check'
import { Note as Pitch, Scale } from 'tonal'
import { anySettings } from '../effects/anySettings.testing'
import { defaultsOf, type Fields, type SettingsOf } from '../effects/settings'
import { byOnset, type Note, noteEndTicks } from '../event/note'
import { noteProblem } from '../project/notesFit'
import { MeterMap } from '../time/meterMap'
import { TempoMap } from '../time/tempoMap'
import { TICKS_PER_QUARTER } from '../time/units'
import type { EditContext } from './operation'
import { operationNames, operations } from './operations'
import { nearestLine } from './quantising'

const tempoMap = new TempoMap([
  { tick: 0, tempoBpm: 90 },
  { tick: 60_000, tempoBpm: 140 },
])
const meterMap = new MeterMap([
  { tick: 0, numerator: 3, denominator: 4 },
  { tick: 90_720, numerator: 6, denominator: 8 },
])

const anyNote = fc.record({
  onsetTicks: fc.integer({ min: 0, max: 400_000 }),
  durationTicks: fc.integer({ min: 1, max: 60_000 }),
  key: fc.integer({ min: 0, max: 127 }),
  velocity: fc.integer({ min: 1, max: 127 }),
  voice: fc.option(fc.integer({ min: 1, max: 8 }), { nil: undefined }),
})

const anyNotes = fc.array(anyNote, { maxLength: 30 }).map((fields) =>
  fields
    .map(
      ({ voice, ...each }, index): Note => ({
        ...each,
        id: index + 1,
        releaseVelocity: 64,
        channel: 1,
        origin: { kind: 'drawn' },
        ...(voice !== undefined && { voice }),
      }),
    )
    .sort(byOnset),
)

function contextFor(notes: readonly Note[], isMeant: (note: Note) => boolean): EditContext {
  const meant = notes.filter(isMeant)
  let serial = 1000
  return {
    ids: new Set(meant.map(({ id }) => id)),
    range: {
      startTicks: meant.reduce((start, { onsetTicks }) => Math.min(start, onsetTicks), 400_000),
      endTicks: meant.reduce((end, note) => Math.max(end, noteEndTicks(note)), 0),
    },
    tempoMap,
    meterMap,
    positionTicks: 100_000,
    timing: [0, 5000, 99_000, 250_000],
    nextId: () => serial++,
    seed: 7,
  }
}
const every = (_note: Note) => true
const odd = ({ id }: Note) => id % 2 === 1
const edit = (name: keyof typeof operations, notes: readonly Note[], settings = {}, isMeant = every) => {
  const operation = operations[name]
  return operation.edit(
    notes,
    { ...defaultsOf(operation.fields), ...settings } as SettingsOf<Fields>,
    contextFor(notes, isMeant),
  )
}
const byId = (notes: readonly Note[]) => [...notes].sort((a, b) => a.id - b.id)

describe.each(operationNames)('%s', (name) => {
  const operation = operations[name]

  test('balances, keeps what is not meant, and gives notes that can be stored', () => {
    fc.assert(
      fc.property(anyNotes, anySettings(operation.fields), (notes, settings) => {
        const before = JSON.stringify(notes)
        const { notes: after, changed, left } = edit(name, notes, settings, odd)
        expect(JSON.stringify(notes)).toBe(before)
        expect(after.map(noteProblem).filter(Boolean)).toEqual([])
        expect([...after].sort(byOnset)).toEqual(after)
        expect(new Set(after.map(({ id }) => id)).size).toBe(after.length)
        const untouched = notes.filter((note) => !odd(note))
        expect(byId(after.filter(({ id }) => id < 1000 && id % 2 === 0))).toEqual(byId(untouched))
        if (operation.balance === 'stays') {
          expect(after.map(({ id }) => id).sort((a, b) => a - b)).toEqual(
            notes.map(({ id }) => id).sort((a, b) => a - b),
          )
          expect(changed + left).toBeLessThanOrEqual(notes.filter(odd).length)
          const different = after.filter((note) => !notes.includes(note))
          expect(different).toHaveLength(changed)
        }
        if (operation.balance === 'shrinks') expect(notes.length - after.length).toBe(changed)
        if (operation.balance === 'grows') expect(after.length).toBeGreaterThanOrEqual(notes.length)
      }),
      { numRuns: 60 },
    )
  })

  test('does nothing to nothing', () => {
    expect(edit(name, [])).toEqual({ notes: [], changed: 0, left: 0 })
  })
})

describe('what undoes itself', () => {
  test('transposing up and down is nothing, but for notes at the edge', () => {
    fc.assert(
      fc.property(anyNotes, fc.integer({ min: -24, max: 24 }), (notes, semitones) => {
        const inside = notes.filter(({ key }) => key >= 24 && key <= 103)
        const up = edit('transpose', inside, { semitones })
        expect(up.left).toBe(0)
        expect(edit('transpose', up.notes, { semitones: -semitones }).notes).toEqual(inside)
      }),
    )
  })

  test('steps of a scale up and down are nothing where notes outside stay', () => {
    fc.assert(
      fc.property(
        anyNotes,
        fc.integer({ min: -14, max: 14 }),
        fc.constantFrom('major', 'harmonic minor', 'blues'),
        (notes, steps, scale) => {
          const inside = notes.filter(({ key }) => key >= 36 && key <= 91)
          const settings = { tonic: 'E♭', scale, outside: 'stay' }
          const up = edit('transposeInScale', inside, { ...settings, steps })
          expect(byId(edit('transposeInScale', up.notes, { ...settings, steps: -steps }).notes)).toEqual(
            byId(inside),
          )
        },
      ),
    )
  })

  test('mirrored or turned round twice is nothing', () => {
    fc.assert(
      fc.property(anyNotes, fc.integer({ min: 50, max: 70 }), (notes, axis) => {
        for (const name of ['upsideDown', 'upsideDownInScale'] as const)
          expect(
            byId(
              edit(name, edit(name, notes, { axis: name === 'upsideDown' ? axis : 60 }).notes, {
                axis: name === 'upsideDown' ? axis : 60,
              }).notes,
            ),
          ).toEqual(byId(notes))
        expect(byId(edit('backwards', edit('backwards', notes).notes).notes)).toEqual(byId(notes))
      }),
    )
  })

  test('twice as long and half as long is nothing', () => {
    fc.assert(
      fc.property(anyNotes, (notes) => {
        const long = notes.filter(({ durationTicks }) => durationTicks >= 24)
        const twice = edit('stretchTime', long, { factor: 'twice as long' })
        expect(edit('stretchTime', twice.notes, { factor: 'half as long' }).notes).toEqual(long)
      }),
    )
  })
})

test('repeating n times gives n times the notes, each at the same place of its turn', () => {
  fc.assert(
    fc.property(anyNotes, fc.integer({ min: 2, max: 6 }), (notes, times) => {
      const { notes: repeated } = edit('repeat', notes, { times })
      expect(repeated).toHaveLength(notes.length * times)
      for (const note of notes)
        expect(
          repeated.filter(
            ({ key, velocity, durationTicks }) =>
              key === note.key && velocity === note.velocity && durationTicks === note.durationTicks,
          ).length,
        ).toBeGreaterThanOrEqual(times)
    }),
  )
})

const line = (
  keys: readonly number[],
  lengthTicks = TICKS_PER_QUARTER / 2,
  stepTicks = TICKS_PER_QUARTER,
): Note[] =>
  keys.map((key, index) => ({
    id: index + 1,
    onsetTicks: index * stepTicks,
    durationTicks: lengthTicks,
    key,
    velocity: 40 + index * 10,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'drawn' },
  }))

test.each(['D4 dorian', 'A3 harmonic minor', 'F4 major pentatonic'])(
  'steps of %s are those of tonal',
  (name) => {
    // Source: the scales of the package tonal, spelled from their tonic.
    const keys = Scale.get(name).notes.map((note) => Pitch.midi(note)!)
    const [, tonic, scale] = /^([A-G])\d (.*)$/.exec(name)!
    const { notes } = edit('transposeInScale', line(keys.slice(0, -2)), { steps: 2, tonic, scale })
    expect(notes.map(({ key }) => key)).toEqual(keys.slice(2))
  },
)

test('legato ends each note where the next begins; chords stay together, the last note stays as it is', () => {
  const chord = [...line([60, 64, 67]), { ...line([72])[0]!, id: 9, onsetTicks: 100 }].sort(byOnset)
  const { notes, changed } = edit('legato', chord)
  expect(notes.map(({ id, durationTicks }) => [id, durationTicks])).toEqual([
    [1, 10_080],
    [9, 9980],
    [2, 10_080],
    [3, 5040],
  ])
  expect(changed).toBe(3)
})

test('quantising moves starts, ends or both, by strength, swing and tuplets, and only what is off', () => {
  const note = { ...line([60])[0]!, onsetTicks: 2600, durationTicks: 5200 }
  const one = (settings: object) => {
    const { onsetTicks, durationTicks } = edit('quantise', [note], settings).notes[0]!
    return [onsetTicks, durationTicks]
  }
  expect(one({})).toEqual([2520, 5200])
  expect(one({ what: 'ends' })).toEqual([2600, 4960])
  expect(one({ what: 'both' })).toEqual([2520, 5040])
  expect(one({ strength: 50 })).toEqual([2560, 5200])
  expect(one({ grid: '1/8', tuplet: '3 for 2' })).toEqual([3360, 5200])
  expect(one({ beyondMs: 20 })).toEqual([2600, 5200])
  // Triplet swing: the second eighth lies two thirds into the beat.
  expect([nearestLine(5000, 5040, 2 / 3), nearestLine(6900, 5040, 2 / 3)]).toEqual([6720, 6720])
})

test('a ramp, an evening and a scaling of velocities are what they say', () => {
  const velocities = (name: 'rampVelocity' | 'evenVelocity' | 'scaleVelocity', settings: object) =>
    edit(name, line([60, 62, 64]), settings).notes.map(({ velocity }) => velocity)
  expect(velocities('rampVelocity', { from: 20, to: 100 })).toEqual([20, 60, 100])
  expect(velocities('evenVelocity', { share: 100 })).toEqual([50, 50, 50])
  expect(velocities('scaleVelocity', { share: 300 })).toEqual([120, 127, 127])
})

test('splitting and joining give the note back', () => {
  const notes = line([60, 64])
  const split = edit('splitNotes', notes, { parts: 4 })
  expect(split.notes).toHaveLength(8)
  expect(edit('joinNotes', split.notes, { gapMs: 0 }).notes).toEqual(notes)
})

test('doubles and glitches go, the longer and louder stays', () => {
  const [first] = line([60])
  const double = { ...first!, id: 2, onsetTicks: 200, durationTicks: 9000, velocity: 90 }
  expect(edit('removeDoubles', [first!, double]).notes).toEqual([
    { ...first!, durationTicks: 9200, velocity: 90 },
  ])
  const glitch = { ...first!, id: 3, durationTicks: 60 }
  expect(edit('removeGlitches', [first!, glitch]).notes).toEqual([first!])
})

test('the timing of another track is laid on where it plays near; elsewhere notes stay, and are counted', () => {
  const notes = line([60, 62, 64], 5000, 4900)
  const { notes: laid, left } = edit('layTiming', notes)
  expect(laid.map(({ onsetTicks }) => onsetTicks)).toEqual([0, 5000, 9800])
  expect(left).toBe(1)
})
