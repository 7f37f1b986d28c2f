import fc from 'fast-check'
import { newSlot } from '../effects/catalogue'
import { noteEndTicks } from '../event/note'
import { MeterMap } from '../time/meterMap'
import { TempoMap } from '../time/tempoMap'
import { amend } from './amend'
import { copyBars, insertBars, lastBar, moveBars, removeBars } from './bars'
import { changeControllers } from './commands'
import { soundingControllers, soundingNotes } from './create'
import { misfit } from './fit'
import { scoreOf } from './onPage'
import type { Project } from './schema'
import { nameSection, nextSectionName } from './sections'
import { noteAt, pieceWith } from './trackWith.testing'

const quarter = 10_080
const bar = 4 * quarter
/** Two tracks of four bars in 4/4, then two in 3/4, a note on every bar; a curve, a tempo and a section at bar 3. */
const piece: Project = {
  ...changeControllers(
    pieceWith(
      [0, 4, 8, 12, 16, 19].map((beat, index) => noteAt(index + 1, beat, 60 + index)),
      [noteAt(11, 7, 48, { durationTicks: 2 * quarter })],
    ),
    'track-1000',
    () => [{ tick: 2 * bar, channel: 1, kind: 'controller', number: 64, value: 127 }],
  ),
  meters: [
    { tick: 0, numerator: 4, denominator: 4 },
    { tick: 4 * bar, numerator: 3, denominator: 4 },
  ],
  tempos: [
    { tick: 0, tempoBpm: 100 },
    { tick: 2 * bar, tempoBpm: 140 },
  ],
  sections: [{ tick: 2 * bar, name: 'A' }],
}
const barsOf = (project: Project, trackIndex = 0) => {
  const meterMap = new MeterMap(project.meters)
  return soundingNotes(project.tracks[trackIndex]!).map(({ key, onsetTicks }) => [
    key,
    meterMap.measureAt(onsetTicks).index + 1,
  ])
}

test('bars go in through all tracks: notes, curves, tempi, meters and sections move with them', () => {
  const { project, moved } = insertBars(piece, 3, 2)
  expect(barsOf(project)).toEqual([
    [60, 1],
    [61, 2],
    [62, 5],
    [63, 6],
    [64, 7],
    [65, 8],
  ])
  expect(moved).toBe(4)
  expect(soundingControllers(project.tracks[0]!)[0]!.tick).toBe(4 * bar)
  expect(project.tempos.map(({ tick }) => tick)).toEqual([0, 4 * bar])
  expect(project.meters.map(({ tick }) => tick)).toEqual([0, 6 * bar])
  expect(project.sections).toEqual([{ tick: 4 * bar, name: 'A' }])
  // A note that sounds over the place keeps its length.
  expect(soundingNotes(project.tracks[1]!)).toEqual(soundingNotes(piece.tracks[1]!))
  expect(misfit(project, null)).toBeNull()
})

test('before the first bar, at the very end and beyond it they go in as well', () => {
  const first = insertBars(piece, 1, 1).project
  expect(barsOf(first)[0]).toEqual([60, 2])
  expect([first.tempos[0], first.meters[0]]).toEqual([piece.tempos[0], piece.meters[0]])
  expect(barsOf(insertBars(piece, lastBar(piece) + 1, 3).project)).toEqual(barsOf(piece))
  expect(insertBars(piece, 5000, 1).problem).toBeNull()
  expect(insertBars(piece, 0, 1).problem).toMatch('counted from 1')
  expect(insertBars(pieceWith([]), 1, 4).project.meters).toEqual([{ tick: 0, numerator: 4, denominator: 4 }])
})

test('bars that are taken out take what begins in them; what sounds into them ends there', () => {
  const { project, removed, shortened } = removeBars(piece, { first: 3, last: 3 })
  expect(barsOf(project)).toEqual([
    [60, 1],
    [61, 2],
    [63, 3],
    [64, 4],
    [65, 5],
  ])
  expect([removed, shortened]).toEqual([1, 1])
  expect(soundingNotes(project.tracks[1]!)[0]!.durationTicks).toBe(quarter)
  expect(project.sections).toEqual([])
  expect(project.tempos).toEqual([
    { tick: 0, tempoBpm: 100 },
    { tick: 2 * bar, tempoBpm: 140 },
  ])
  expect(misfit(project, null)).toBeNull()
})

test('bars are moved and copied with their meter, tempo and sections', () => {
  const moved = moveBars(piece, { first: 5, last: 6 }, 2).project
  expect(barsOf(moved)).toEqual([
    [60, 1],
    [64, 2],
    [65, 3],
    [61, 4],
    [62, 5],
    [63, 6],
  ])
  expect(moved.meters.map(({ tick, numerator }) => [tick / quarter, numerator])).toEqual([
    [0, 4],
    [4, 3],
    [10, 4],
    // Behind the piece it was 3/4, and is.
    [22, 3],
  ])
  const later = moveBars(piece, { first: 1, last: 1 }, 4).project
  expect(barsOf(later)).toEqual([
    [61, 1],
    [62, 2],
    [60, 3],
    [63, 4],
    [64, 5],
    [65, 6],
  ])
  expect(later.sections).toEqual([{ tick: bar, name: 'A' }])
  const copied = copyBars(piece, { first: 1, last: 2 }, 5).project
  expect(barsOf(copied)).toEqual([
    [60, 1],
    [61, 2],
    [62, 3],
    [63, 4],
    [60, 5],
    [61, 6],
    [64, 7],
    [65, 8],
  ])
  expect(copied.tempos.map(({ tick, tempoBpm }) => [tick / bar, tempoBpm])).toEqual([
    [0, 100],
    [2, 140],
    [4, 100],
    [6, 140],
  ])
  for (const project of [moved, later, copied]) expect(misfit(project, null)).toBeNull()
  expect(moveBars(piece, { first: 2, last: 3 }, 3).problem).toMatch('already')
})

test('put in and taken out again, bars leave the piece as it was', () => {
  // A note that sounds over the place sounds into the new bars, and would end with them.
  const unheld = { ...piece, tracks: piece.tracks.slice(0, 1) }
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 9 }), (before, count) => {
      const { project } = insertBars(unheld, before, count)
      const back = removeBars(project, { first: before, last: before + count - 1 }).project
      expect({ ...back, nextSerial: 0 }).toEqual({ ...unheld, nextSerial: 0 })
    }),
  )
})

test('moving bars loses and doubles no note', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 6 }),
      fc.integer({ min: 0, max: 3 }),
      fc.integer({ min: 1, max: 8 }),
      (first, more, goal) => {
        const { project, problem } = moveBars(piece, { first, last: first + more }, goal)
        const ids = (each: Project) =>
          each.tracks.flatMap((track) => soundingNotes(track).map(({ id }) => id)).sort((a, b) => a - b)
        expect(ids(project)).toEqual(ids(piece))
        expect(misfit(project, null)).toBeNull()
        if (problem) expect(project).toBe(piece)
        for (const track of project.tracks)
          for (const note of soundingNotes(track)) expect(noteEndTicks(note)).toBeGreaterThan(note.onsetTicks)
      },
    ),
  )
})

test('sections begin with bars, are named as rehearsal marks are, and go with an empty name', () => {
  const named = nameSection(nameSection(piece, 5, 'Lanterns'), 1, nextSectionName(piece.sections))
  expect(named.sections.map(({ tick, name }) => [tick / bar, name])).toEqual([
    [0, 'B'],
    [2, 'A'],
    [4, 'Lanterns'],
  ])
  expect(nameSection(named, 3, ' ').sections).toHaveLength(2)
  expect(
    nextSectionName(
      Array.from({ length: 26 }, (_, index) => ({ tick: index, name: String.fromCharCode(65 + index) })),
    ),
  ).toBe('AA')
})

test('a marked stretch, bars picked from takes and changes of effects go with their bars', () => {
  const [first, ...others] = piece.tracks
  const slots = [newSlot('transpose', 'a', { octaves: 1 })]
  const full: Project = {
    ...piece,
    recording: { ...piece.recording, stretch: { startTicks: bar, endTicks: 2 * bar }, isLooping: true },
    tracks: [
      {
        ...first!,
        effectChanges: [{ tick: bar, slots }],
        clips: first!.clips.map((clip) => ({ ...clip, combinedFrom: [{ barStartTicks: bar, clipId: 'x' }] })),
      },
      ...others,
    ],
  }
  const where = (project: Project) => ({
    stretch: project.recording.stretch && [
      project.recording.stretch.startTicks / bar,
      project.recording.stretch.endTicks / bar,
    ],
    picks: project.tracks[0]!.clips[0]!.combinedFrom!.map(({ barStartTicks }) => barStartTicks / bar),
    changes: project.tracks[0]!.effectChanges.map(({ tick }) => tick / bar),
  })
  // Bars that go in right behind a stretch do not become part of it.
  expect(where(insertBars(full, 3, 2).project)).toEqual({ stretch: [1, 2], picks: [1], changes: [1] })
  expect(where(insertBars(full, 1, 1).project)).toEqual({ stretch: [2, 3], picks: [2], changes: [2] })
  expect(where(moveBars(full, { first: 2, last: 2 }, 1).project)).toEqual({
    stretch: [0, 1],
    picks: [0],
    changes: [0],
  })
  expect(where(copyBars(full, { first: 2, last: 2 }, 5).project)).toEqual({
    stretch: [1, 2],
    picks: [1, 4],
    changes: [1, 4],
  })
  const gone = removeBars(full, { first: 2, last: 2 }).project
  expect(where(gone)).toEqual({ stretch: null, picks: [], changes: [] })
  expect(gone.recording.isLooping).toBe(false)
  for (const project of [gone, copyBars(full, { first: 2, last: 2 }, 5).project])
    expect(misfit(project, null)).toBeNull()
})

test('bars that are copied and taken out again leave the piece as it was', () => {
  // A note that is held over the place would be cut with what is taken out.
  const unheld = { ...piece, tracks: piece.tracks.slice(0, 1) }
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 6 }),
      fc.integer({ min: 0, max: 2 }),
      fc.integer({ min: 1, max: 9 }),
      (first, more, goal) => {
        const { project } = copyBars(unheld, { first, last: first + more }, goal)
        const back = removeBars(project, { first: goal, last: goal + more }).project
        const plain = (each: Project) => ({
          notes: soundingNotes(each.tracks[0]!).map(({ onsetTicks, durationTicks, key }) => [
            onsetTicks,
            durationTicks,
            key,
          ]),
          bars: new MeterMap(each.meters).measuresUntil(10 * bar).map(({ startTicks }) => startTicks),
          tempi: [0, 1, 2, 3, 4, 5].map((index) => new TempoMap(each.tempos).tempoAt(index * bar)),
        })
        expect(plain(back)).toEqual(plain(unheld))
      },
    ),
  )
})

describe('changes of the page by hand', () => {
  const plain = pieceWith(Array.from({ length: 16 }, (_, beat) => noteAt(beat + 1, beat, 60 + (beat % 4))))
  const written = amend(plain, [
    {
      aspect: 'time',
      noteId: 6,
      heardTicks: 5 * quarter,
      onsetTicks: 5.5 * quarter,
      durationTicks: quarter / 2,
    },
    { aspect: 'slur', noteId: 5, toNoteId: 8 },
    { aspect: 'repeat', tick: bar, lastBarTick: 2 * bar },
    { aspect: 'break', tick: 2 * bar, of: 'line' },
  ])
  const misfits = (project: Project) => {
    const score = scoreOf(project)
    return [...score.misfits, ...score.parts.flatMap((part) => part.misfits)]
  }
  const spans = ({ amendments }: Project) =>
    amendments.flatMap((each) =>
      each.aspect === 'repeat' ? [[each.tick / bar, each.lastBarTick / bar]] : [],
    )

  test('go with their bars, however long the bars before are now', () => {
    const ofNotes = (project: Project) => misfits(project).filter(({ amendment }) => 'noteId' in amendment)
    const inSevens: Project = { ...written, meters: [{ tick: 0, numerator: 7, denominator: 8 }] }
    for (const start of [written, inSevens]) {
      expect(ofNotes(start)).toEqual([])
      expect(ofNotes(insertBars(start, 1, 1).project)).toEqual([])
    }
    const later = insertBars(written, 1, 1).project
    expect(spans(later)).toEqual([[2, 3]])
    expect(scoreOf(later).breaks).toEqual([{ bar: 3, of: 'line' }])
  })

  test('hold for those bars that are left', () => {
    expect(spans(removeBars(written, { first: 3, last: 3 }).project)).toEqual([[1, 1]])
    expect(spans(removeBars(written, { first: 2, last: 2 }).project)).toEqual([[1, 1]])
    expect(spans(removeBars(written, { first: 2, last: 3 }).project)).toEqual([])
  })

  test('are copied with their notes', () => {
    const twice = copyBars(written, { first: 2, last: 2 }, 5).project
    expect(twice.amendments.filter(({ aspect }) => aspect === 'time')).toHaveLength(2)
    expect(misfits(twice)).toEqual([])
    const [part] = scoreOf(twice).parts
    const content = (index: number) =>
      part!.measures[index]!.map(({ elements }) =>
        elements.map(({ kind, startTicks, durationTicks }) => [kind, startTicks, durationTicks]),
      )
    expect(content(4)).toEqual(content(1))
    expect(part!.slurs.map(({ startTicks, endTicks }) => [startTicks / quarter, endTicks / quarter])).toEqual(
      [
        [4, 7],
        [16, 19],
      ],
    )
  })
})
