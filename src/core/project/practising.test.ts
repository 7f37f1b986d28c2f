import { practising } from './practising'
import { noteAt, pieceWith } from './trackWith.testing'

const piece = pieceWith([noteAt(1, 0, 60)], [noteAt(2, 0, 64)])
const [first, second] = piece.tracks
const heard = (way: Parameters<typeof practising>[1]['way']) =>
  practising(piece, { trackId: first!.id, way }).tracks

test('one part is louder than the others, alone, or all but it is heard', () => {
  expect(heard('louder').map(({ volume }) => volume)).toEqual([first!.volume, second!.volume * 0.3])
  expect(heard('alone').map(({ isSolo }) => isSolo)).toEqual([true, false])
  expect(heard('without').map(({ isMuted }) => isMuted)).toEqual([true, false])
})

test('a part that was muted is heard where it is meant, and a part that is gone changes nothing', () => {
  const muted = { ...piece, tracks: piece.tracks.map((track) => ({ ...track, isMuted: true })) }
  expect(practising(muted, { trackId: first!.id, way: 'alone' }).tracks[0]!.isMuted).toBe(false)
  expect(practising(piece, { trackId: 'gone', way: 'alone' })).toBe(piece)
})
