import { emptyProject, newClip, newTrack, soundingNotes } from './create'
import type { Project } from './schema'
import { noteAt } from './trackWith.testing'
import { type StavesOfNotes, type Transfer, transferLines, transferring } from './transferring'

const flute = [noteAt(1, 0, 72), noteAt(2, 1, 74)]
const piano = [noteAt(3, 0, 48), noteAt(4, 0, 64), noteAt(5, 1, 52), noteAt(6, 1, 67)]
const drums = [noteAt(7, 0, 36)]
const piece = [
  { name: 'Flute', instrument: { kind: 'program' as const, program: 73 }, notes: flute },
  { name: 'Piano', instrument: { kind: 'program' as const, program: 0 }, notes: piano },
  { name: 'Drums', instrument: { kind: 'drums' as const }, notes: drums },
].reduce<Project>(
  (project, { name, instrument, notes }) =>
    newTrack(project, { name, instrument, clips: [newClip(`clip ${name}`, 'x', notes)] }).project,
  { ...emptyProject('p', 'Piece', 0), nextSerial: 100 },
)
const [fluteId, pianoId, drumsId] = piece.tracks.map(({ id }) => id) as [string, string, string]
// A hand that reaches over: the lower staff has a high note.
const staves: StavesOfNotes = new Map([
  [
    pianoId,
    new Map([
      [3, 2],
      [4, 1],
      [5, 1],
      [6, 2],
    ] as const),
  ],
])
const transfer: Transfer = {
  portId: 'cable:Studio',
  trackIds: [fluteId, pianoId, drumsId],
  dividesStaves: true,
  withClock: true,
}
const sent = (project: Project) =>
  project.tracks
    .filter(({ sendTo }) => sendTo !== null)
    .map((track) => [track.sendTo!.channel, soundingNotes(track).map(({ key }) => key)])

test('the two staves of a part are two channels, by where each note is written; drums have theirs', () => {
  const project = transferring(piece, transfer, staves)
  expect(sent(project)).toEqual([
    [1, [72, 74]],
    [2, [64, 52]],
    [3, [48, 67]],
    [10, [36]],
  ])
  expect(project.clock.sendTo).toEqual(['cable:Studio'])
  expect(project.tracks.every(({ instrument }) => instrument.kind === 'none')).toBe(true)
})

test('undivided it is one channel; parts that are not sent are silent, and no clock goes unless it is asked for', () => {
  const project = transferring(
    piece,
    { ...transfer, trackIds: [pianoId], dividesStaves: false, withClock: false },
    staves,
  )
  expect(sent(project)).toEqual([[1, [48, 64, 52, 67]]])
  expect(project.tracks.map(({ isMuted }) => isMuted)).toEqual([true, false, true])
  expect(project.clock).toEqual(piece.clock)
})

test('no note is sent twice and none is left out, however staves are told', () => {
  const some: StavesOfNotes = new Map([
    [
      pianoId,
      new Map([
        [3, 2],
        [4, 1],
      ] as const),
    ],
  ])
  const keys = sent(transferring(piece, transfer, some)).flatMap(([, own]) => own)
  expect([...keys].sort()).toEqual([36, 48, 52, 64, 67, 72, 74])
  expect(transferLines(piece, transfer, new Map())).toHaveLength(3)
})
