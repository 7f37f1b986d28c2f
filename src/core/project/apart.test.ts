import fc from 'fast-check'
import { takeApart, togetherQuartersAt, type Way } from '../separation/takeApart'
import { TICKS_PER_QUARTER } from '../time/units'
import { asVoices, forgetLines, notesInScope, putOnTracks, tellLines } from './apart'
import { changeControllers } from './commands'
import { soundingControllers, soundingNotes } from './create'
import { misfit } from './fit'
import { bringBack, familyOf, hearInTurn } from './madeFrom'
import type { Project } from './schema'
import { putTogether } from './together'
import { noteAt, pieceWith, trackNamed } from './trackWith.testing'

const notes = [noteAt(1, 0, 72), noteAt(2, 0, 48), noteAt(3, 1, 74), noteAt(4, 1, 50), noteAt(5, 2, 60)]
const pedal = { tick: 0, channel: 1, kind: 'controller', number: 64, value: 127 } as const
const piece = changeControllers(pieceWith(notes), 'track-1000', () => [pedal])
const parts = [
  { name: 'high', noteIds: new Set([1, 3]) },
  { name: 'low', noteIds: new Set([2, 4]) },
]
const heard = (project: Project) => project.tracks.filter(({ isMuted }) => !isMuted).map(({ name }) => name)
const written = (project: Project) =>
  project.tracks.filter(({ isOnPage }) => isOnPage).map(({ name }) => name)

test('parts are on tracks below, with every curve, and what is in no part is not lost', () => {
  const { project, trackIds, carried } = putOnTracks(piece, 'track-1000', parts)
  expect(project.tracks.map(({ name }) => name)).toEqual([
    'Track 1',
    'Track 1, high',
    'Track 1, low',
    'Track 1, the rest',
  ])
  expect(trackIds).toHaveLength(3)
  expect(project.tracks.map((track) => soundingNotes(track).length)).toEqual([5, 2, 2, 1])
  for (const track of project.tracks) expect(soundingControllers(track)).toEqual([pedal])
  for (const note of soundingNotes(trackNamed(project, 'Track 1, low'))) {
    expect(note.origin.kind).toBe('carried')
    const from = notes.find(({ id }) => note.origin.kind === 'carried' && id === note.origin.fromNoteId)!
    expect([note.onsetTicks, note.key, carried.get(from.id)]).toEqual([from.onsetTicks, from.key, note.id])
  }
  expect(misfit(project, null)).toBeNull()
})

test('the source rests, is compared in turn, and comes back with one press; the page has it once', () => {
  const { project } = putOnTracks(piece, 'track-1000', parts)
  const made = ['Track 1, high', 'Track 1, low', 'Track 1, the rest']
  expect([heard(project), written(project)]).toEqual([made, made])
  const lowId = trackNamed(project, 'Track 1, low').id
  expect(familyOf(project, lowId)!.sources.map(({ name }) => name)).toEqual(['Track 1'])
  expect(heard(hearInTurn(project, lowId, 'sources'))).toEqual(['Track 1'])
  expect(heard(hearInTurn(hearInTurn(project, lowId, 'sources'), 'track-1000', 'made'))).toEqual(made)
  const back = bringBack(project, lowId)
  expect([heard(back), written(back)]).toEqual([['Track 1'], ['Track 1']])
})

const ways: readonly Way[] = [
  { by: 'voice', voices: 'found' },
  { by: 'hand' },
  { by: 'line' },
  { by: 'key', atKeys: [60, 72] },
  { by: 'channel' },
  { by: 'drum' },
  { by: 'force', underVelocity: 60 },
  { by: 'told' },
]

test('taken apart in any way and put together again, a track is what it was', () => {
  const anyNotes = fc.array(
    fc.record({
      beat: fc.integer({ min: 0, max: 24 }).map((eighth) => eighth / 2),
      key: fc.integer({ min: 30, max: 90 }),
      velocity: fc.integer({ min: 1, max: 127 }),
      channel: fc.integer({ min: 1, max: 4 }),
    }),
    { minLength: 1, maxLength: 25 },
  )
  fc.assert(
    fc.property(anyNotes, fc.constantFrom(...ways), (fields, way) => {
      const own = fields
        .map(({ beat, key, velocity, channel }, index) => noteAt(index + 1, beat, key, { velocity, channel }))
        .sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key || a.id - b.id)
      const before = pieceWith(own)
      const apart = takeApart(
        own.map(({ onsetTicks, durationTicks, ...rest }) => ({
          ...rest,
          onsetQuarters: onsetTicks / TICKS_PER_QUARTER,
          endQuarters: (onsetTicks + durationTicks) / TICKS_PER_QUARTER,
        })),
        way,
        togetherQuartersAt(100),
      )
      expect(apart.parts.flatMap(({ members }) => members).sort((a, b) => a - b)).toEqual(
        own.map((_, index) => index),
      )
      const { project, trackIds } = putOnTracks(
        before,
        'track-1000',
        apart.parts.map(({ name, members }) => ({
          name,
          noteIds: new Set(members.map((member) => own[member]!.id)),
        })),
      )
      const contents = (track: Project['tracks'][number]) =>
        soundingNotes(track)
          .map(({ onsetTicks, durationTicks, key, velocity }) =>
            [onsetTicks, key, velocity, durationTicks].join(' '),
          )
          .sort()
      if (trackIds.length < 2) {
        expect(trackIds).toHaveLength(1)
        return
      }
      const together = putTogether(project, trackIds, 'voices')
      const result = together.project.tracks.find(({ id }) => id === together.trackId)!
      expect(contents(result)).toEqual(contents(before.tracks[0]!))
    }),
    { numRuns: 60 },
  )
})

test('an empty stretch, and a part without a note, make no track', () => {
  const scope = { kind: 'stretch', stretch: { startTicks: 900_000, endTicks: 910_000 } } as const
  expect(notesInScope(piece.tracks[0]!, scope)).toEqual([])
  const nothing = putOnTracks(pieceWith([]), 'track-1000', [{ name: 'empty', noteIds: new Set<number>() }])
  expect(nothing.trackIds).toEqual([])
  expect(nothing.project.tracks).toHaveLength(1)
})

test('voices of four lines are two to a staff; of a right hand both stay above', () => {
  const lines = (keys: readonly number[]) => {
    const own = keys.map((key, index) => noteAt(index + 1, 0, key))
    return asVoices(
      own,
      own.map((_, index) => ({ members: [index] })),
      true,
    ).map(({ voice, staff }) => [voice, staff])
  }
  expect(lines([72, 67, 63, 48])).toEqual([
    [1, 1],
    [2, 1],
    [3, 2],
    [4, 2],
  ])
  expect(lines([76, 64])).toEqual([
    [1, 1],
    [2, 1],
  ])
  expect(lines([72, 48])).toEqual([
    [1, 1],
    [2, 2],
  ])
})

test('what lines were told is kept, and can be forgotten', () => {
  const told = tellLines(piece, 'track-1000', [
    { noteIds: new Set([1, 3]), voice: 1, staff: 1 },
    { noteIds: new Set([2]), voice: 2 },
  ])
  expect(soundingNotes(told.tracks[0]!).map(({ voice, staff }) => [voice, staff])).toEqual([
    [1, 1],
    [2, undefined],
    [1, 1],
    [undefined, undefined],
    [undefined, undefined],
  ])
  expect(soundingNotes(forgetLines(told, 'track-1000').tracks[0]!)).toEqual(notes)
})

test('two hands are two staves of one part, the higher above; notes that meet are counted and kept', () => {
  const hands = pieceWith([noteAt(1, 0, 48), noteAt(2, 1, 60)], [noteAt(3, 0, 72), noteAt(4, 1, 60)])
  const {
    project,
    trackId,
    coincident,
    notes: count,
  } = putTogether(hands, ['track-1000', 'track-1001'], 'staves')
  expect([count, coincident]).toEqual([4, 1])
  const joined = project.tracks.find(({ id }) => id === trackId)!
  expect(soundingNotes(joined).map(({ key, staff }) => [key, staff])).toEqual([
    [48, 2],
    [72, 1],
    [60, 2],
    [60, 1],
  ])
  expect(heard(project)).toEqual([joined.name])
  expect(heard(bringBack(project, trackId!))).toEqual(['Track 1', 'Track 2'])
})

test('told apart by channel, each part keeps its channel', () => {
  const mixed = pieceWith([noteAt(1, 0, 60, { channel: 5 }), noteAt(2, 0, 64, { channel: 9 })])
  const { project } = putOnTracks(mixed, 'track-1000', [
    { name: 'channel 5', noteIds: new Set([1]) },
    { name: 'channel 9', noteIds: new Set([2]) },
  ])
  expect(project.tracks.slice(1).map(({ channel }) => channel)).toEqual([5, 9])
})

test('taken apart once more, what was made before rests and stands for itself', () => {
  const first = putOnTracks(piece, 'track-1000', parts).project
  const second = putOnTracks(first, 'track-1000', [
    { name: 'all', noteIds: new Set([1, 2, 3, 4, 5]) },
  ]).project
  expect(heard(second)).toEqual(['Track 1, all'])
  expect(trackNamed(second, 'Track 1, high').madeFrom).toBeNull()
  expect(heard(hearInTurn(hearInTurn(second, 'track-1000', 'sources'), 'track-1000', 'made'))).toEqual([
    'Track 1, all',
  ])
})

test('to a port all parts go on the channel that the track went on', () => {
  const sending = {
    ...piece,
    tracks: piece.tracks.map((track) => ({ ...track, channel: 7, sendTo: { portId: 'out', channel: null } })),
  }
  const { project } = putOnTracks(sending, 'track-1000', parts)
  expect(project.tracks.map(({ sendTo }) => sendTo?.channel)).toEqual([null, 7, 7, 7])
})
