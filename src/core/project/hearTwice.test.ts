import type { Amendment } from '../notation/amendments/amendment'
import { amend } from './amend'
import { soundingNotes } from './create'
import { heardOnce, hearTwice } from './hearTwice'
import { scoreOf } from './onPage'
import type { Project } from './schema'
import { noteAt, pieceWith } from './trackWith.testing'

const bar = 4 * 10_080
/** Five bars of quarters, each bar on a pitch of its own. */
const piece = (...amendments: readonly Amendment[]): Project =>
  amend(
    pieceWith(
      [60, 62, 64, 65, 67].flatMap((key, index) =>
        [0, 1, 2, 3].map((beat) => noteAt(index * 4 + beat + 1, index * 4 + beat, key)),
      ),
    ),
    amendments,
  )
const repeat = (first: number, last: number): Amendment => ({
  aspect: 'repeat',
  tick: (first - 1) * bar,
  lastBarTick: (last - 1) * bar,
})
const ending = (first: number, last: number, time: 1 | 2): Amendment => ({
  aspect: 'ending',
  tick: (first - 1) * bar,
  lastBarTick: (last - 1) * bar,
  time,
})
const twice = (project: Project): Project => {
  const heard = hearTwice(project, heardOnce(project)[0]!)
  if ('problem' in heard) throw new Error(heard.problem)
  return heard
}
/** The pitch of each bar as it is played. */
const barsPlayed = (project: Project) =>
  soundingNotes(project.tracks[0]!).flatMap(({ onsetTicks, key }) => (onsetTicks % bar === 0 ? [key] : []))

test('a repeat by hand is played twice and still written once', () => {
  const project = twice(piece(repeat(2, 3)))
  expect(barsPlayed(project)).toEqual([60, 62, 64, 62, 64, 65, 67])
  const score = scoreOf(project)
  expect(score.misfits).toEqual([])
  expect(score.measures).toHaveLength(5)
  expect(score.repeats).toEqual([{ from: 1, to: 3, times: 2 }])
  expect(heardOnce(project)).toEqual([])
})

test('with endings, the first time has the first, the second the second', () => {
  const project = twice(piece(repeat(2, 3), ending(3, 3, 1), ending(4, 4, 2)))
  expect(barsPlayed(project)).toEqual([60, 62, 64, 62, 65, 67])
  const score = scoreOf(project)
  expect(score.misfits).toEqual([])
  expect(score.measures).toHaveLength(5)
  expect(score.endings).toEqual([
    { from: 2, to: 3, time: 1 },
    { from: 3, to: 4, time: 2 },
  ])
})

test('what was written on its notes is written once, too', () => {
  const project = twice(
    amend(piece(repeat(2, 3)), [{ aspect: 'sign', noteId: 6, sign: 'accent', isOn: true }]),
  )
  const score = scoreOf(project)
  expect(score.misfits).toEqual([])
  expect(score.measures).toHaveLength(5)
})

test('an ending that leaves nothing to repeat says so', () => {
  const project = piece(repeat(2, 3), ending(2, 3, 1), ending(4, 4, 2))
  expect(hearTwice(project, heardOnce(project)[0]!)).toMatchObject({
    problem: expect.stringContaining('nothing'),
  })
})
