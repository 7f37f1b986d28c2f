import { newSlot } from '../effects/catalogue'
import type { Note } from '../event/note'
import { changeTrack } from '../project/commands'
import { emptyProject, newClip, newTrack, soundingNotes } from '../project/create'
import { addGenerator, changeGenerator, stepLane } from '../project/generatorCommands'
import type { Project, Track } from '../project/schema'
import { cablePortId } from '../routing/ports'
import { printCable, sendersTo } from './printCable'

const bar = 40_320

const notes: readonly Note[] = [60, 64, 67].map((key, index) => ({
  id: index + 1,
  onsetTicks: index * bar,
  durationTicks: 5040,
  key,
  velocity: 80,
  releaseVelocity: 64,
  channel: 1,
  origin: { kind: 'drawn' },
}))

/** A track with a note in each of three bars, that sends to the cable. */
function sending(fields: Partial<Track>): { project: Project; id: string } {
  const { project, track } = newTrack(
    { ...emptyProject('p', 'Piece', 0), nextSerial: 10 },
    {
      name: 'Lute',
      instrument: { kind: 'program', program: 24 },
      channel: 3,
      sendTo: { portId: cablePortId('Pier'), channel: null },
      clips: [newClip('c', 'Played', notes)],
      ...fields,
    },
  )
  return { project, id: track.id }
}
const printedTracks = (
  project: Project,
  cable = 'Pier',
  stretch: Parameters<typeof printCable>[2] = null,
) => {
  const result = printCable(project, cable, stretch)
  return {
    ...result,
    tracks: result.printedTrackIds.map((id) => result.project.tracks.find((track) => track.id === id)!),
  }
}
const contents = (track: Track) => soundingNotes(track).map((note) => [note.onsetTicks, note.key])

test('what a track sends is on the channel it sends on, and the track rests', () => {
  const { project, id } = sending({ effects: [newSlot('transpose', 'a', { octaves: 1 })] })
  const { project: next, tracks } = printedTracks(project)
  expect(tracks.map((track) => [track.name, track.channel, track.madeFrom?.trackIds[0] ?? null])).toEqual([
    ['Pier, printed', 3, id],
  ])
  expect(contents(tracks[0]!)).toEqual([
    [0, 72],
    [bar, 76],
    [bar * 2, 79],
  ])
  expect(next.tracks.find((track) => track.id === id)).toMatchObject({ isMuted: true, doEffectsRest: true })
  expect(printedTracks(next).printedTrackIds).toEqual([])
})

test('dealt voices are a track each; a send with a channel of its own keeps them together', () => {
  const effects = [newSlot('chordInKey', 'a'), newSlot('dealVoices', 'b', { voices: 3 })]
  const { tracks } = printedTracks(sending({ effects }).project)
  expect(tracks.map((track) => [track.name, track.channel, soundingNotes(track).length])).toEqual([
    ['Pier, channel 1', 1, 3],
    ['Pier, channel 2', 2, 3],
    ['Pier, channel 3', 3, 3],
  ])
  const one = sending({ effects, sendTo: { portId: cablePortId('Pier'), channel: 7 } })
  expect(printedTracks(one.project).tracks.map((track) => track.channel)).toEqual([7])
})

test('a pedal goes out on the channel of its track, what effects move with the voice it belongs to', () => {
  const pedal = { tick: 0, channel: 1, kind: 'controller', number: 64, value: 127 } as const
  const effects = [newSlot('controllerMovement', 'a'), newSlot('dealVoices', 'b', { voices: 3 })]
  const { project, id } = sending({ effects })
  const withPedal = changeTrack(project, id, (track) => ({
    ...track,
    clips: track.clips.map((clip) => ({ ...clip, controllers: [pedal] })),
  }))
  const controllersOf = (track: Track) => track.clips[0]!.controllers.map((event) => event.number)
  const onlyOne = printedTracks(withPedal).tracks
  // Single notes all go to the first voice; the track's own channel, 3, carries no note.
  expect(onlyOne.map((track) => track.channel)).toEqual([1])
  expect(new Set(controllersOf(onlyOne[0]!))).toEqual(new Set([11]))
  const plain = changeTrack(withPedal, id, (track) => ({ ...track, effects: [] }))
  expect(printedTracks(plain).tracks.map(controllersOf)).toEqual([[64]])
})

test('a track that plays later sends later; a stretch takes what begins in it', () => {
  // At 100 bpm, 300 ms are an eighth note.
  const { project } = sending({ offsetMs: 300 })
  expect(contents(printedTracks(project).tracks[0]!)[0]).toEqual([5040, 60])
  const stretch = { startTicks: bar, endTicks: bar * 2 }
  expect(contents(printedTracks(project, 'Pier', stretch).tracks[0]!)).toEqual([[bar + 5040, 64]])
})

test('lanes that go out by the cable are printed with it, and those of other cables are not', () => {
  const { project: seated } = sending({})
  const { project, generator } = addGenerator(seated, 'lanes')
  const lanes = [
    stepLane('a', 'Out', { channel: 5, cable: 'Pier' }),
    stepLane('b', 'Elsewhere', { channel: 6, cable: 'Mole' }),
  ]
  const routed = changeGenerator(project, generator.id, (old) => ({ ...old, work: { kind: 'lanes', lanes } }))
  expect(sendersTo(routed, 'Pier').generators.map((each) => each.id)).toEqual([generator.id])
  const { project: next, tracks } = printedTracks(routed)
  expect(tracks.map((track) => track.channel)).toEqual([3, 5])
  // What goes on for ever is printed for sixteen bars, five notes in each.
  expect(soundingNotes(tracks[1]!)).toHaveLength(16 * 5)
  expect(next.generators[0]!.isPlaying).toBe(false)
  const ids = tracks.flatMap((track) => soundingNotes(track).map((note) => note.id))
  expect(new Set(ids).size).toBe(ids.length)
})

test('nothing is sent by a muted track, over another cable, or round a ring', () => {
  const { project, id } = sending({})
  expect(printCable(project, 'Mole', null).project).toBe(project)
  const muted = changeTrack(project, id, (track) => ({ ...track, isMuted: true }))
  expect(sendersTo(muted, 'Pier').tracks).toEqual([])
  const ring = changeTrack(project, id, (track) => ({
    ...track,
    routes: [
      {
        portId: cablePortId('Pier'),
        channel: null,
        lowKey: 0,
        highKey: 127,
        toChannel: null,
        transposeSemitones: 0,
        velocity: { kind: 'asPlayed' },
      },
    ],
  }))
  expect(sendersTo(ring, 'Pier').tracks).toEqual([])
})
