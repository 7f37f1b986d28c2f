import { emptyProject, newClip, newTrack, soundingNotes } from './create'
import type { Project } from './schema'
import { noteAt } from './trackWith.testing'
import { type PlainParts, sentLines, type Transfer, transferLines, transferring } from './transferring'

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
const onStaves = (...staves: readonly (1 | 2)[]) =>
  piano.slice(0, staves.length).map((note, index) => ({ ...note, staff: staves[index]! }))
const plain: PlainParts = new Map([
  [fluteId, flute],
  [pianoId, onStaves(2, 1, 1, 2)],
  [drumsId, drums],
])
const transfer: Transfer = {
  portId: 'cable:Studio',
  trackIds: [fluteId, pianoId, drumsId],
  manner: 'played',
  dividesStaves: true,
  withClock: true,
  countInBars: 0,
  click: null,
}
const sent = (project: Project) =>
  project.tracks
    .filter(({ sendTo }) => sendTo !== null)
    .map((track) => [track.sendTo!.channel, soundingNotes(track).map(({ key }) => key)])

test('the two staves of a part are two channels, by where each note is written; drums have theirs', () => {
  const project = transferring(piece, transfer, plain)
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
    plain,
  )
  expect(sent(project)).toEqual([[1, [48, 64, 52, 67]]])
  expect(project.tracks.map(({ isMuted }) => isMuted)).toEqual([true, false, true])
  expect(project.clock).toEqual(piece.clock)
})

test('no note is sent twice and none is left out, however staves are told', () => {
  const some: PlainParts = new Map([[pianoId, onStaves(2, 1)]])
  const keys = sent(transferring(piece, transfer, some)).flatMap(([, own]) => own)
  expect([...keys].sort()).toEqual([36, 48, 52, 64, 67, 72, 74])
  expect(transferLines(piece, transfer, new Map())).toHaveLength(3)
})

test('as written, the page is sent: its notes, no pedals, no effects, nothing late', () => {
  const late = { ...piece, tracks: piece.tracks.map((track) => ({ ...track, offsetMs: 30 })) }
  const written: PlainParts = new Map([[fluteId, [noteAt(1, 2, 72)]]])
  const project = transferring(late, { ...transfer, trackIds: [fluteId], manner: 'written' }, written)
  expect(sent(project)).toEqual([[1, [72]]])
  expect(project.tracks[0]).toMatchObject({ offsetMs: 0, effects: [] })
})

test('a click has a channel that no part is sent on, and goes on where that is asked for', () => {
  const withClick = { ...transfer, trackIds: [fluteId, pianoId], click: { channel: 1, goesOn: true } }
  expect(transferLines(piece, withClick, plain).map(({ channel }) => channel)).toEqual([2, 3, 4])
  const project = transferring(piece, withClick, plain)
  expect(project.click).toMatchObject({ isOn: true, portId: 'cable:Studio', channel: 1 })
  expect(sent(project).at(-1)).toEqual([1, [76, 77]])
})

test('what should stand there is told staff by staff, also where both go on one channel', () => {
  const { names, notes } = sentLines(piece, { ...transfer, dividesStaves: false }, plain)
  expect(names).toEqual(['Flute', 'Piano, upper staff', 'Piano, lower staff', 'Drums'])
  expect(notes.map(({ line, channel, key }) => [line, channel, key])).toEqual([
    [0, 1, 72],
    [0, 1, 74],
    [1, 2, 64],
    [1, 2, 52],
    [2, 2, 48],
    [2, 2, 67],
    [3, 10, 36],
  ])
})
