import fc from 'fast-check'
import type { Note, NoteId } from '../../event/note'
import { writeMusicXml } from '../../formats/musicXml'
import { verovioReader } from '../../formats/verovioReader.testing'
import { amend, takeBack } from '../../project/amend'
import { headOf } from '../../project/content'
import { findNote } from '../../project/findNote'
import { misfit } from '../../project/fit'
import { readProjectHead } from '../../project/migrate'
import { headingsOf, scoreOf } from '../../project/onPage'
import type { Project } from '../../project/schema'
import { noteAt, pieceWith } from '../../project/trackWith.testing'
import { proveMusicXml } from '../../proof/proveMusicXml'
import { TICKS_PER_QUARTER as quarter } from '../../time/units'
import { standingIn } from '../heads'
import type { Score } from '../score'
import { addressOf, handSigns } from './amendment'
import { draw } from './pen'
import type { Drawn, Stroke } from './stroke'

/** A stroke on notes of a piece, as the page does it. */
function stroke(
  project: Project,
  noteIds: readonly NoteId[],
  made: Stroke,
): { project: Project; drawn: Drawn } {
  const drawn = draw(
    scoreOf(project),
    project.amendments,
    (id) => findNote(project, id)!.note.onsetTicks,
    { kind: 'notes', noteIds },
    made,
  )
  if (!drawn.isDrawn) return { project, drawn }
  return { drawn, project: amend(takeBack(project, new Set(drawn.takenBack)), drawn.amendments) }
}

function strokes(project: Project, ...made: readonly (readonly [readonly NoteId[], Stroke])[]): Project {
  return made.reduce((now, [noteIds, each]) => {
    const done = stroke(now, noteIds, each)
    if (!done.drawn.isDrawn) throw new Error(done.drawn.why)
    return done.project
  }, project)
}

const head = (project: Project, id: NoteId) => standingIn(scoreOf(project)).head(id)!
const allMisfits = (score: Score) => [...score.misfits, ...score.parts.flatMap(({ misfits }) => misfits)]

/** Four quarters C D E F, and a long C two octaves lower. */
const tune = () =>
  pieceWith([
    noteAt(1, 0, 72),
    noteAt(2, 1, 74),
    noteAt(3, 2, 76),
    noteAt(4, 3, 77),
    noteAt(5, 4, 72),
    noteAt(6, 5, 72),
    noteAt(7, 6, 73),
    noteAt(8, 0, 48, { durationTicks: 4 * quarter - 400 }),
  ])

describe('a stroke of the pen', () => {
  test('changes a value, with a rest or a second voice where it must, and goes back', () => {
    const shorter = strokes(tune(), [[2], { to: 'value', type: 'eighth' }])
    expect(head(shorter, 2).chord.value).toEqual({ type: 'eighth', dots: 0 })
    const longer = strokes(tune(), [[2], { to: 'value', type: 'half' }])
    expect(head(longer, 2).endTicks).toBe(3 * quarter)
    expect(head(longer, 3).onsetTicks).toBe(2 * quarter)
    const dotted = strokes(shorter, [[2], { to: 'dot' }])
    expect(head(dotted, 2).chord.value).toEqual({ type: 'eighth', dots: 1 })
    expect(head(strokes(dotted, [[2], { to: 'dot' }]), 2).chord.value).toEqual({ type: 'eighth', dots: 0 })
  })

  test('moves a note in the bar, and the note that was played stays', () => {
    const moved = strokes(tune(), [[4], { to: 'place', byTicks: quarter / 2 }])
    expect(head(moved, 4).onsetTicks).toBe(3.5 * quarter)
    expect(findNote(moved, 4)!.note.onsetTicks).toBe(3 * quarter)
  })

  test('writes tuplets, and takes them apart', () => {
    const triplet = strokes(tune(), [[1, 2, 3], { to: 'tuplet', actual: 3 }])
    expect([1, 2, 3].map((id) => head(triplet, id).onsetTicks)).toEqual([
      0,
      (quarter * 2) / 3,
      (quarter * 4) / 3,
    ])
    expect(head(triplet, 2).chord).toMatchObject({
      tuplet: { actual: 3, normal: 2 },
      value: { type: 'quarter', dots: 0 },
    })
    const even = strokes(triplet, [[1, 2], { to: 'tuplet', actual: null }])
    expect(head(even, 2).onsetTicks).toBe(quarter / 2)
  })

  test.each([5, 7] as const)('writes %i in a beat', (actual) => {
    const ids = Array.from({ length: actual }, (_, place) => place + 1)
    const quarters = pieceWith(ids.map((id) => noteAt(id, id - 1, 59 + id)))
    const written = amend(
      quarters,
      ids.map((noteId) => ({
        aspect: 'time',
        noteId,
        heardTicks: (noteId - 1) * quarter,
        onsetTicks: ((noteId - 1) * quarter) / actual,
        durationTicks: quarter / actual,
      })),
    )
    expect(allMisfits(scoreOf(written))).toEqual([])
    expect(ids.map((id) => head(written, id).chord.tuplet?.actual)).toEqual(ids.map(() => actual))
    expect(head(written, 2).chord.value).toEqual({ type: '16th', dots: 0 })
  })

  test.each([5, 7] as const)('writes %i in a dotted beat, in the time of six', (actual) => {
    const ids = Array.from({ length: actual }, (_, place) => place + 1)
    const beat = 1.5 * quarter
    const played = pieceWith(ids.map((id) => noteAt(id, id - 1, 59 + id)))
    const inSix: Project = { ...played, meters: [{ tick: 0, numerator: 6, denominator: 8 }] }
    const written = amend(
      inSix,
      ids.map((noteId) => ({
        aspect: 'time',
        noteId,
        heardTicks: (noteId - 1) * quarter,
        onsetTicks: ((noteId - 1) * beat) / actual,
        durationTicks: beat / actual,
      })),
    )
    expect(allMisfits(scoreOf(written))).toEqual([])
    expect(ids.map((id) => head(written, id).chord.tuplet)).toEqual(
      ids.map((id) => ({ actual, normal: 6, starts: id === 1, stops: id === actual })),
    )
    expect(head(written, 2).chord.value).toEqual({ type: '16th', dots: 0 })
  })

  test('ties a note to the next of its pitch, in two values, and unties it', () => {
    const tied = strokes(tune(), [[5], { to: 'tie' }])
    expect(head(tied, 6).onsetTicks).toBe(4 * quarter)
    expect(head(tied, 5).note.noteIds).toEqual([5, 6])
    expect(head(tied, 5).chord.value).toEqual({ type: 'quarter', dots: 0 })
    expect(head(tied, 5).endTicks).toBe(6 * quarter)
    expect(head(strokes(tied, [[5], { to: 'tie' }]), 6).note.noteIds).toEqual([6])
    expect(stroke(tune(), [4], { to: 'tie' }).drawn).toMatchObject({ isDrawn: false })
  })

  test('goes through the names of a pitch', () => {
    const names = [tune()]
    for (let each = 0; each < 3; each++) names.push(strokes(names.at(-1)!, [[7], { to: 'name' }]))
    const said = names.map((project) => {
      const { step, alter } = head(project, 7).note.pitch
      return `${step}${alter}`
    })
    expect(new Set(said)).toEqual(new Set(['C1', 'D-1', 'B2']))
    expect(said[3]).toBe(said[0])
  })

  test('puts a note into another voice, and on the other staff', () => {
    const second = strokes(tune(), [[2], { to: 'line', line: 2 }])
    expect(head(second, 2).line).toBe(2)
    const below = strokes(tune(), [[1, 2], { to: 'staff' }])
    expect(head(below, 1).staff).toBe(2)
    expect(head(below, 3).staff).toBe(1)
  })

  test.each(handSigns)('puts the sign %s to a note and takes it away', (sign) => {
    const signed = strokes(tune(), [[2], { to: 'sign', sign }])
    const chord = head(signed, 2).chord
    // One note alone is no chord to be rolled.
    expect(chord.articulations.includes(sign)).toBe(sign !== 'rolled')
    if (sign === 'rolled') return
    const without = strokes(signed, [[2], { to: 'sign', sign }])
    expect(scoreOf(without)).toEqual(scoreOf(tune()))
  })

  test('writes fingers, levels, hairpins and slurs, and takes them away', () => {
    const done = strokes(
      tune(),
      [[2], { to: 'fingering', text: '3' }],
      [[3], { to: 'level', mark: 'ff' }],
      [[1, 3], { to: 'hairpin', kind: 'crescendo' }],
      [[1, 4], { to: 'slur' }],
    )
    const [part] = scoreOf(done).parts
    expect(head(done, 2).note.fingering).toBe('3')
    expect(part!.dynamics.levels).toContainEqual({ tick: 2 * quarter, mark: 'ff' })
    expect(part!.dynamics.hairpins).toContainEqual({
      startTicks: 0,
      endTicks: 3 * quarter,
      kind: 'crescendo',
    })
    expect(part!.slurs).toContainEqual(expect.objectContaining({ startTicks: 0, endTicks: 3 * quarter }))
    const undone = strokes(
      done,
      [[2], { to: 'fingering', text: '' }],
      [[3], { to: 'level', mark: 'ff' }],
      [[2], { to: 'hairpin', kind: null }],
      [[1, 4], { to: 'slur' }],
    )
    expect(undone.amendments).toEqual([])
  })

  test('takes away a level that was found', () => {
    const found = scoreOf(tune()).parts[0]!.dynamics.levels
    expect(found.map(({ tick }) => tick)).toEqual([0])
    const without = strokes(tune(), [[1], { to: 'level', mark: null }])
    expect(scoreOf(without).parts[0]!.dynamics.levels).toEqual([])
  })

  test('writes clefs, bar lines, repeats and endings, and breaks', () => {
    const piece = pieceWith(Array.from({ length: 16 }, (_, beat) => noteAt(beat + 1, beat, 72)))
    const done = strokes(
      piece,
      [[5], { to: 'clef', clef: 'alto' }],
      [[1], { to: 'barLine', style: 'double' }],
      [[1, 9], { to: 'repeat' }],
      [[9], { to: 'ending', time: 1 }],
      [[13], { to: 'ending', time: 2 }],
      [[9], { to: 'break', of: 'page' }],
    )
    const score = scoreOf(done)
    expect(allMisfits(score)).toEqual([])
    expect(score.parts[0]!.clefChanges).toEqual([{ staff: 1, bar: 1, clef: 'alto' }])
    expect(score.barLines).toEqual([{ bar: 0, style: 'double' }])
    expect(score.repeats).toMatchObject([{ from: 0, to: 3 }])
    expect(score.endings).toEqual([
      { from: 2, to: 3, time: 1 },
      { from: 3, to: 4, time: 2 },
    ])
  })

  test('an ending alone is told, and not written', () => {
    const piece = pieceWith(Array.from({ length: 8 }, (_, beat) => noteAt(beat + 1, beat, 72)))
    const score = scoreOf(strokes(piece, [[1, 5], { to: 'repeat' }], [[5], { to: 'ending', time: 1 }]))
    expect(score.endings).toEqual([])
    expect(allMisfits(score)).toEqual([
      expect.objectContaining({ why: expect.stringContaining('the other is missing') }),
    ])
  })
})

describe('changes by hand and another reading', () => {
  const withTime = () => strokes(tune(), [[2], { to: 'value', type: 'eighth' }], [[7], { to: 'name' }])
  const change = (project: Project, id: NoteId, fields: Partial<Note>): Project => ({
    ...project,
    tracks: project.tracks.map((track) => ({
      ...track,
      clips: track.clips.map((clip) => ({
        ...clip,
        notes: clip.notes.map((note) => (note.id === id ? { ...note, ...fields } : note)),
      })),
    })),
  })

  test('a note that moves by a beat takes its written place with it', () => {
    const moved = change(withTime(), 2, { onsetTicks: 9 * quarter + 300 })
    expect(head(moved, 2)).toMatchObject({ onsetTicks: 9 * quarter, endTicks: 9.5 * quarter })
    expect(allMisfits(scoreOf(moved))).toEqual([])
  })

  test.each([1, -1])(
    'moved by the smallest value, %d of it, it is moved so on the page, and by less it stays',
    (sign) => {
      const from = scoreOf(withTime())
      const step = (4 * quarter) / withTime().scoreSettings.smallestValue
      const before = head(withTime(), 2)
      const moved = change(withTime(), 2, { onsetTicks: quarter + sign * step })
      expect(head(moved, 2)).toMatchObject({
        onsetTicks: before.onsetTicks + sign * step,
        endTicks: before.endTicks + sign * step,
      })
      expect(allMisfits(scoreOf(moved))).toEqual([])
      const nudged = change(withTime(), 2, { onsetTicks: quarter + Math.round(sign * step * 0.4) })
      expect(head(nudged, 2)).toMatchObject({ onsetTicks: before.onsetTicks })
      expect(allMisfits(from)).toEqual([])
    },
  )

  test('what no longer fits is listed, stays, and is at work again when it fits', () => {
    const other = change(withTime(), 7, { key: 74 })
    expect(allMisfits(scoreOf(other)).map(({ why }) => why)).toEqual(['the note has another pitch now'])
    expect(scoreOf(change(other, 7, { key: 73 }))).toEqual(scoreOf(withTime()))
    const gone = { ...withTime(), tracks: withTime().tracks.map((track) => ({ ...track, isOnPage: false })) }
    expect(allMisfits(scoreOf(gone))).toHaveLength(2)
  })

  test('fifths among sixteenths of one beat are not written, and told', () => {
    const piece = pieceWith([
      noteAt(1, 0, 72, { durationTicks: 2400 }),
      noteAt(2, 0.25, 74, { durationTicks: 2400 }),
      noteAt(3, 0.5, 76, { durationTicks: 4800 }),
    ])
    const odd = amend(piece, [
      {
        aspect: 'time',
        noteId: 3,
        heardTicks: quarter / 2,
        onsetTicks: (quarter * 3) / 5,
        durationTicks: (quarter * 2) / 5,
      },
    ])
    expect(allMisfits(scoreOf(odd))).toHaveLength(1)
    expect(head(odd, 3).onsetTicks).toBe(quarter / 2)
  })
})

/** Pieces of two parts, in eighths, in every mixture of chords and voices. */
const pieces = fc
  .array(
    fc.record({
      eighth: fc.integer({ min: 0, max: 40 }),
      key: fc.integer({ min: 40, max: 84 }),
      length: fc.constantFrom(1, 1, 2, 2, 3, 4, 6),
      part: fc.integer({ min: 0, max: 1 }),
      offset: fc.integer({ min: -250, max: 250 }),
    }),
    { minLength: 2, maxLength: 40 },
  )
  .map((notes) => {
    const lists: Note[][] = [[], []]
    for (const [index, { eighth, key, length, part, offset }] of notes.entries())
      lists[part]!.push(
        noteAt(index + 1, 0, key, {
          onsetTicks: Math.max(0, (eighth * quarter) / 2 + offset),
          durationTicks: (length * quarter) / 2 - 300,
        }),
      )
    return pieceWith(...lists.map((list) => list.sort((a, b) => a.onsetTicks - b.onsetTicks)))
  })

const anyStroke: fc.Arbitrary<Stroke> = fc.oneof(
  fc.record({
    to: fc.constant('value' as const),
    type: fc.constantFrom('whole', 'half', 'quarter', 'eighth', '16th', '32nd'),
  }),
  fc.constant({ to: 'dot' } as const),
  fc.record({
    to: fc.constant('place' as const),
    byTicks: fc.constantFrom(-quarter / 2, quarter / 4, quarter),
  }),
  fc.record({ to: fc.constant('tuplet' as const), actual: fc.constantFrom(3, 5, 6, 7, null) }),
  fc.constant({ to: 'tie' } as const),
  fc.constant({ to: 'name' } as const),
  fc.record({ to: fc.constant('line' as const), line: fc.integer({ min: 1, max: 4 }) }),
  fc.constant({ to: 'staff' } as const),
  fc.record({ to: fc.constant('sign' as const), sign: fc.constantFrom(...handSigns) }),
  fc.record({ to: fc.constant('fingering' as const), text: fc.constantFrom('1', '4-5', '<3>', '') }),
  fc.record({ to: fc.constant('level' as const), mark: fc.constantFrom('ppp', 'mf', 'sfz', null) }),
  fc.record({ to: fc.constant('hairpin' as const), kind: fc.constantFrom('crescendo', 'diminuendo', null) }),
  fc.constant({ to: 'slur' } as const),
  fc.record({
    to: fc.constant('clef' as const),
    clef: fc.constantFrom('treble', 'bass', 'alto', 'tenor', null),
  }),
  fc.record({
    to: fc.constant('barLine' as const),
    style: fc.constantFrom('double', 'final', 'dashed', 'dotted', null),
  }),
  fc.constant({ to: 'repeat' } as const),
  fc.record({ to: fc.constant('ending' as const), time: fc.constantFrom(1, 2) }),
  fc.record({ to: fc.constant('break' as const), of: fc.constantFrom('line', 'page') }),
) as fc.Arbitrary<Stroke>

const doings = fc.array(
  fc.tuple(fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1, maxLength: 5 }), anyStroke),
  { minLength: 1, maxLength: 12 },
)

/** Played, amended as told; strokes that are refused change nothing. */
const amended = (project: Project, done: readonly (readonly [readonly NoteId[], Stroke])[]) =>
  done.reduce((now, [noteIds, each]) => stroke(now, noteIds, each).project, project)

describe('any strokes on any piece', () => {
  test('leave what was played as it was, can be stored and read again, and taken back', () => {
    fc.assert(
      fc.property(pieces, doings, (piece, done) => {
        const after = amended(piece, done)
        expect(after.tracks).toBe(piece.tracks)
        expect(misfit(after, piece)).toBeNull()
        const stored = readProjectHead(JSON.parse(JSON.stringify(headOf(after))))
        expect(stored.aside).toEqual([])
        expect(stored.head.amendments).toEqual(after.amendments)
        const back = takeBack(after, new Set(after.amendments.map(addressOf)))
        expect(scoreOf(back)).toEqual(scoreOf(piece))
      }),
      { numRuns: 60 },
    )
  })

  test('leave each note at exactly one head, and list what does not fit', () => {
    fc.assert(
      fc.property(pieces, doings, (piece, done) => {
        const after = amended(piece, done)
        const score = scoreOf(after)
        const heads = score.parts.flatMap(({ measures }) =>
          measures.flatMap((voices) =>
            voices.flatMap(({ elements }) =>
              elements.flatMap((element) =>
                element.kind === 'chord'
                  ? element.notes.flatMap((note) => (note.tiesFromPrevious ? [] : note.noteIds))
                  : [],
              ),
            ),
          ),
        )
        const played = piece.tracks.flatMap(({ clips }) => clips[0]!.notes.map(({ id }) => id))
        expect(heads.sort((a, b) => a - b)).toEqual(played.sort((a, b) => a - b))
        const known = new Set(after.amendments.map(addressOf))
        for (const { amendment } of allMisfits(score)) expect(known).toContain(addressOf(amendment))
      }),
      { numRuns: 100 },
    )
  })

  test('are at work as they were told, or listed', () => {
    fc.assert(
      fc.property(pieces, doings, (piece, done) => {
        const after = amended(piece, done)
        const score = scoreOf(after)
        const listed = new Set(allMisfits(score).map(({ amendment }) => addressOf(amendment)))
        const standing = standingIn(score)
        for (const each of after.amendments) {
          if (listed.has(addressOf(each))) continue
          if (each.aspect === 'time') {
            const { onsetTicks } = standing.head(each.noteId)!
            // A note that is tied to another has its place there.
            if (standing.head(each.noteId)!.note.noteIds[0] === each.noteId)
              expect(onsetTicks).toBe(each.onsetTicks)
          } else if (each.aspect === 'sign' && each.sign !== 'rolled' && each.isOn) {
            const { chord } = standing.head(each.noteId)!
            if (each.sign !== 'staccato' && each.sign !== 'tenuto' && each.sign !== 'staccatissimo')
              expect(chord.articulations).toContain(each.sign)
          } else if (each.aspect === 'fingering')
            expect(standing.head(each.noteId)!.note.fingering).toBe(each.text)
        }
      }),
      { numRuns: 100 },
    )
  })

  test('are read back by an independent reader, note for note', async () => {
    const reader = await verovioReader()
    await fc.assert(
      fc.asyncProperty(pieces, doings, async (piece, done) => {
        const after = amended(piece, done)
        const score = scoreOf(after)
        const headings = headingsOf(after)
        const proof = await proveMusicXml(writeMusicXml(score, headings), score, headings, reader)
        expect(proof.differences).toEqual([])
      }),
      { numRuns: 60 },
    )
  })
})
