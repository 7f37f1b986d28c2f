import { scoreOf } from '../project/onPage'
import { noteAt, pieceWith } from '../project/trackWith.testing'
import { partsThatPlay } from './emptyStaves'

test('parts that are silent for a line are left out of it, but never all of them', () => {
  const score = scoreOf(pieceWith([noteAt(1, 0, 60), noteAt(2, 15, 60)], [noteAt(3, 5, 72)]))
  expect(partsThatPlay(score, { from: 0, to: 1 })).toEqual([0])
  expect(partsThatPlay(score, { from: 1, to: 2 })).toEqual([1])
  expect(partsThatPlay(score, { from: 0, to: 2 })).toEqual([0, 1])
  expect(partsThatPlay(score, { from: 2, to: 3 })).toEqual([0, 1])
})
