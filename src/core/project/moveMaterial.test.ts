import { ClipboardError, readCopied } from '../editing/clipboard'
import { moveNotes } from '../editing/notes'
import { operations } from '../editing/operations'
import { soundingNotes } from './create'
import { changeChosen, editedWords, editNotes } from './editNotes'
import { misfit } from './fit'
import { copyChosen, paste, splitTrack } from './moveMaterial'
import { noteAt, pieceWith } from './trackWith.testing'

const piece = pieceWith(
  [noteAt(1, 0, 60), noteAt(2, 1, 62, { voice: 2 })],
  [noteAt(3, 2, 40), noteAt(4, 9, 41)],
)
const other = pieceWith([noteAt(1, 0, 99)])
const copied = (ids: number[]) =>
  readCopied(copyChosen(piece, { trackId: 'track-1000', noteIds: new Set(ids) })!.text)

test('notes go through text from piece to piece, with everything that belongs to them', () => {
  const { project, noteIds, trackNames } = paste(other, 'track-1000', 40_320, copied([2]))
  const pasted = soundingNotes(project.tracks[0]!).find(({ id }) => noteIds.has(id))!
  expect(pasted).toMatchObject({ onsetTicks: 40_320, key: 62, voice: 2, velocity: 80, releaseVelocity: 64 })
  expect(trackNames).toEqual(['Track 1'])
  expect(misfit(project, null)).toBeNull()
})

test('what came from several tracks goes to as many, and keeps its time between them', () => {
  const { project, trackNames } = paste(other, 'track-1000', 0, copied([1, 3]))
  expect(trackNames).toEqual(['Track 1', 'Track 2'])
  expect(soundingNotes(project.tracks[1]!).map(({ onsetTicks, key }) => [onsetTicks, key])).toEqual([
    [20_160, 40],
  ])
})

test('text that is no music is refused with what it is, and nothing is copied where nothing is chosen', () => {
  for (const [text, says] of [
    ['', 'nothing to paste'],
    ['Dear Orla, see you at the pier', 'is not music: it begins “Dear Orla, see you at th…”'],
    ['{"format":"something else"}', 'is not music'],
    ['[1,2,3]', 'damaged|not music'],
    [JSON.stringify({ ...copied([1]), tracks: [{ name: 'x', notes: [{ key: 200 }] }] }), 'damaged'],
  ] as const) {
    expect(() => readCopied(text)).toThrow(ClipboardError)
    expect(() => readCopied(text)).toThrow(new RegExp(says))
  }
  expect(copyChosen(piece, { trackId: 'track-1000', noteIds: new Set() })).toBeNull()
})

test('a track is split at a bar, each note on one side; on one side of everything nothing is split', () => {
  const { project, newTrackId, carried } = splitTrack(piece, 'track-1001', 40_320)
  expect(carried).toBe(1)
  expect(project.tracks.map((track) => soundingNotes(track).map(({ id }) => id))).toEqual([[1, 2], [3], [4]])
  expect(project.tracks[2]!.id).toBe(newTrackId)
  expect(splitTrack(piece, 'track-1001', 0).newTrackId).toBeNull()
  expect(misfit(project, null)).toBeNull()
})

test('an operation is for all chosen notes in whatever tracks, and says what it did', () => {
  const high = pieceWith([noteAt(1, 0, 60), noteAt(2, 1, 127)], [noteAt(3, 0, 50)])
  const options = { positionTicks: 0, seed: 1 }
  const result = editNotes(
    high,
    operations.transpose,
    { octaves: 0, semitones: 2 },
    { trackId: 'track-1000', noteIds: new Set([1, 2, 3]) },
    options,
  )
  expect(result.project.tracks.map((track) => soundingNotes(track).map(({ key }) => key))).toEqual([
    [62, 127],
    [52],
  ])
  expect(editedWords('transpose', result)).toBe('2 notes: transpose; 1 at the edge left as they were')
  const alone = editNotes(
    high,
    operations.removeNotes,
    {},
    { trackId: 'track-1000', noteIds: new Set() },
    options,
  )
  expect(editedWords('removeNotes', alone)).toBe('2 notes fewer: delete')
  expect(alone.project.tracks[1]).toBe(high.tracks[1])
})

test('with several clips sounding together every note is edited once, and new ones come once', () => {
  const layered = pieceWith([noteAt(1, 0, 60)])
  const [track] = layered.tracks
  const twice = {
    ...layered,
    tracks: [
      {
        ...track!,
        clips: [
          track!.clips[0]!,
          { ...track!.clips[0]!, id: 'clip-b', notes: [noteAt(1, 0, 60), noteAt(2, 2, 64)] },
        ],
      },
    ],
  }
  const { project, after } = editNotes(
    twice,
    operations.repeat,
    { times: 3 },
    { trackId: track!.id, noteIds: new Set() },
    { positionTicks: 0, seed: 1 },
  )
  expect(after).toBe(6)
  expect(soundingNotes(project.tracks[0]!)).toHaveLength(6)
})

test('what is moved together stops together, on whatever tracks it is', () => {
  const { tracks } = changeChosen(
    pieceWith([noteAt(1, 1, 60)], [noteAt(2, 4, 126)]),
    { trackId: 'track-1000', noteIds: new Set([1, 2]) },
    (notes, together) => moveNotes(notes, new Set([1, 2]), -40_320, 5, together),
  )
  expect(
    tracks.flatMap((track) => soundingNotes(track).map(({ onsetTicks, key }) => [onsetTicks / 10_080, key])),
  ).toEqual([
    [0, 61],
    [3, 127],
  ])
})
