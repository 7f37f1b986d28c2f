import { byOnset } from '../event/note'
import { amend } from './amend'
import { bringInto } from './bringInto'
import { emptyProject, newClip, newTrack, soundingNotes } from './create'
import type { Project } from './schema'
import { noteAt } from './trackWith.testing'

const quarter = 10_080
const bar = 4 * quarter

function piece(keys: readonly number[], fields: Partial<Project> = {}): Project {
  const notes = keys.map((key, index) => noteAt(index + 1, index, key))
  const { project } = newTrack(
    { ...emptyProject('p', 'Piece', 0), nextSerial: 100 },
    { name: 'Flute', instrument: { kind: 'program', program: 73 }, clips: [newClip('clip-90', 'x', notes)] },
  )
  return { ...project, ...fields }
}

const brought = piece([72, 74, 76, 77, 79], {
  tempos: [{ tick: 0, tempoBpm: 60 }],
  meters: [{ tick: 0, numerator: 3, denominator: 4 }],
  keys: [{ tick: 0, fifths: 2, mode: 'major' }],
  sections: [{ tick: 0, name: 'B' }],
})
const into = (way: Partial<Parameters<typeof bringInto>[2]> = {}, project = piece([60, 62])) => {
  const next = bringInto(project, brought, { atBar: 2, time: 'piece', inPlaceOf: null, ...way })
  if ('problem' in next) throw new Error(next.problem)
  return next
}

test('its tracks are new ones, at the bar that was asked for; what was there stays, and no number is given twice', () => {
  const before = piece([60, 62])
  const next = into({}, before)
  expect(next.tracks).toHaveLength(2)
  expect(next.tracks[0]).toBe(before.tracks[0])
  expect(soundingNotes(next.tracks[1]!).map(({ onsetTicks }) => onsetTicks)).toEqual(
    [0, 1, 2, 3, 4].map((beat) => bar + beat * quarter),
  )
  const ids = next.tracks.flatMap((track) => soundingNotes(track).map(({ id }) => id))
  expect(new Set(ids).size).toBe(ids.length)
  expect(Math.max(...ids)).toBeLessThan(next.nextSerial)
  expect(next.sections).toEqual([{ tick: bar, name: 'B' }])
  expect(next.tempos).toEqual(before.tempos)
})

test('with its own time, that of the piece holds again behind it', () => {
  const next = into({ time: 'file' })
  expect(next.tempos.map(({ tick, tempoBpm }) => [tick / quarter, tempoBpm])).toEqual([
    [0, 100],
    [4, 60],
    [10, 100],
  ])
  expect(next.meters.map(({ tick, numerator }) => [tick / quarter, numerator])).toEqual([
    [0, 4],
    [4, 3],
    [10, 4],
  ])
})

test('in place of a part: that rests and can be heard again, and what is sung goes with it', () => {
  const before = piece([60, 62])
  const next = into({ inPlaceOf: before.tracks[0]!.id, atBar: 1 }, before)
  expect(next.tracks).toHaveLength(1)
  expect(next.tracks[0]!.clips.map(({ isSounding, notes }) => [isSounding, notes.length])).toEqual([
    [false, 2],
    [true, 5],
  ])
})

test('changes of its bars come along with its own time only', () => {
  const lined = amend(brought, [{ aspect: 'barLine', tick: 0, style: 'double' }])
  const own = (time: 'piece' | 'file') => {
    const next = bringInto(piece([60]), lined, { atBar: 3, time, inPlaceOf: null })
    return 'problem' in next ? null : next.amendments
  }
  expect(own('piece')).toEqual([])
  expect(own('file')).toEqual([{ aspect: 'barLine', tick: 2 * bar, style: 'double' }])
})

test('a file without notes says so', () => {
  expect(bringInto(piece([60]), piece([]), { atBar: 1, time: 'piece', inPlaceOf: null })).toEqual({
    problem: 'There is no note in it.',
  })
  expect([...soundingNotes(into().tracks[1]!)]).toEqual([...soundingNotes(into().tracks[1]!)].sort(byOnset))
})
