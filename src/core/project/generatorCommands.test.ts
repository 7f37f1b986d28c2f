import { cablePortId } from '../routing/ports'
import { changeTrack } from './commands'
import { emptyProject, newClip } from './create'
import { addGenerator, changeGenerator, removeGenerator, stepLane } from './generatorCommands'
import type { Project } from './schema'

const empty = emptyProject('p', 'Piece', 0)
const streams = (project: Project) => project.sources.map((source) => [source.name, source.address.channel])
const setLanes = (project: Project, id: string, lanes: readonly ReturnType<typeof stepLane>[]) =>
  changeGenerator(project, id, (old) => ({ ...old, work: { kind: 'lanes', lanes: [...lanes] } }))

test('a new generator plays at once: each of its channels is a source with a track that hears it', () => {
  const { project, generator } = addGenerator(empty, 'accompaniment')
  expect(generator.isPlaying).toBe(true)
  expect(project.sources.map((source) => source.address.channel)).toEqual([2, 10, 3])
  for (const { address } of project.sources)
    expect(
      project.tracks.filter((track) => track.routes.some((route) => route.channel === address.channel)),
    ).toHaveLength(1)
  expect(project.tracks.find((track) => track.routes[0]!.channel === 10)!.instrument.kind).toBe('drums')
  expect(addGenerator(project, 'accompaniment').generator.name).toBe('Band 2')
})

test('a lane on a channel of its own gets a source and a track; taken out, both go', () => {
  const { project, generator } = addGenerator(empty, 'lanes')
  const lanes = generator.work.kind === 'lanes' ? generator.work.lanes : []
  const more = setLanes(project, generator.id, [...lanes, stepLane('lane-3', 'Third', { channel: 4 })])
  expect(streams(more)).toEqual([...streams(project), ['Third', 4]])
  expect(more.tracks).toHaveLength(project.tracks.length + 1)
  expect(more.tracks.at(-1)!.routes).toMatchObject([{ channel: 4 }])
  const fewer = setLanes(more, generator.id, lanes)
  expect(streams(fewer)).toEqual(streams(project))
  expect(fewer.tracks).toHaveLength(project.tracks.length)
})

test('a track with notes on it stays when its lane goes, and only loses its way', () => {
  const { project, generator } = addGenerator(empty, 'lanes')
  const trackId = project.tracks[0]!.id
  const recorded = changeTrack(project, trackId, (track) => ({
    ...track,
    clips: [newClip('c', 'Recorded', [])],
  }))
  const gone = removeGenerator(recorded, generator.id)
  expect(gone.generators).toEqual([])
  expect(gone.sources).toEqual([])
  expect(gone.tracks.map((track) => [track.id, track.routes])).toEqual([[trackId, []]])
})

test('names given by hand stay when the lane is renamed; others follow it', () => {
  const { project, generator } = addGenerator(empty, 'lanes')
  const [first, second] = project.sources
  const renamed: Project = {
    ...project,
    sources: project.sources.map((source) => (source === first ? { ...source, name: 'My bells' } : source)),
  }
  const lanes = generator.work.kind === 'lanes' ? generator.work.lanes : []
  const next = setLanes(
    renamed,
    generator.id,
    lanes.map((lane) => ({ ...lane, name: `${lane.name} too` })),
  )
  expect(next.sources.map((source) => source.name)).toEqual(['My bells', `${second!.name} too`])
})

test('a lane that goes out by a cable is heard here as well', () => {
  const { project, generator } = addGenerator(empty, 'lanes')
  const next = setLanes(project, generator.id, [stepLane('l', 'Out', { channel: 5, cable: 'Pier' })])
  expect(streams(next)).toEqual([['Out', 5]])
  expect(next.sources[0]!.address.portId).not.toBe(cablePortId('Pier'))
})

test('of a generator that is not there nothing changes', () => {
  expect(changeGenerator(empty, 'nobody', (old) => old)).toBe(empty)
  expect(removeGenerator(empty, 'nobody')).toEqual(empty)
})
