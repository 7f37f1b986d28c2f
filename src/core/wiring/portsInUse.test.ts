import { addSource } from '../project/commands'
import { emptyProject } from '../project/create'
import type { Source } from '../project/schema'
import { cableName, cablePortId, filePortId } from '../routing/ports'
import { findPortsByName, missingPorts, movePort } from './portsInUse'

const player = (id: string, portId: string, portName: string): Source => ({
  id,
  name: id,
  kind: 'midiPort',
  address: { portId, channel: 1 },
  description: '',
  portName,
  group: '',
  compensationMs: 0,
  soundInput: null,
  effects: [],
})
const project = [player('one', 'id-1', 'Grey keyboard'), player('two', 'id-2', 'Blue pads')].reduce(
  (next, source) => addSource(next, source, { kind: 'drums' }),
  emptyProject('p', 'P', 0),
)

test('a cable is a port by its name', () => {
  expect(cableName(cablePortId('Pier 3'))).toBe('Pier 3')
  expect(cableName('id-1')).toBeNull()
  expect(cableName(filePortId('x'))).toBeNull()
})

test('ports with new identifiers are found again by name, with the tracks that hear them', () => {
  const found = findPortsByName(project, [
    { id: 'new-2', name: 'Blue pads' },
    { id: 'id-1', name: 'Grey keyboard' },
  ])
  expect(found.sources.map((source) => source.address.portId)).toEqual(['id-1', 'new-2'])
  expect(found.tracks.map((track) => track.routes[0]!.portId)).toEqual(['id-1', 'new-2'])
  expect(missingPorts(found, [{ id: 'id-1', name: 'Grey keyboard' }])).toEqual([
    { id: 'new-2', name: 'Blue pads' },
  ])
})

test('where no port has the name, nothing is guessed', () => {
  expect(findPortsByName(project, [{ id: 'x', name: 'Something else' }])).toBe(project)
})

test('two missing ports of one name take two ports', () => {
  const twins = [player('one', 'id-1', 'Pads'), player('two', 'id-2', 'Pads')].reduce(
    (next, source) => addSource(next, source, { kind: 'drums' }),
    emptyProject('p', 'P', 0),
  )
  const found = findPortsByName(twins, [
    { id: 'a', name: 'Pads' },
    { id: 'b', name: 'Pads' },
  ])
  expect(found.sources.map((source) => source.address.portId)).toEqual(['a', 'b'])
})

test('sends and clocks move along', () => {
  const wired = {
    ...project,
    clock: { sendTo: ['id-1', 'id-2'], follow: 'id-1' },
    tracks: project.tracks.map((track) => ({ ...track, sendTo: { portId: 'id-1', channel: 4 } })),
  }
  const moved = movePort(wired, 'id-1', { id: 'n', name: 'N' })
  expect(moved.clock).toEqual({ sendTo: ['n', 'id-2'], follow: 'n' })
  expect(moved.tracks[0]!.sendTo).toEqual({ portId: 'n', channel: 4 })
})
