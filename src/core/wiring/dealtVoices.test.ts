import { newSlot } from '../effects/catalogue'
import { addSource, changeTrack } from '../project/commands'
import { emptyProject } from '../project/create'
import type { Project } from '../project/schema'
import { plainRoute } from '../routing/route'
import { lostVoices, seatVoices, voicesWithoutTrack } from './dealtVoices'
import { checkWiring } from './wiring'

const deal = (voices: number, first = 1) => newSlot('dealVoices', 'd', { voices, first })

function player(effects = [deal(4)]): Project {
  return addSource(
    emptyProject('p', 'Piece', 0),
    {
      id: 's',
      name: 'Ada',
      kind: 'midiPort',
      address: { portId: 'A', channel: 1 },
      description: '',
      portName: 'Harbour keys',
      group: '',
      compensationMs: 0,
      soundInput: null,
      effects,
    },
    { kind: 'program', program: 48 },
  )
}
const sourceOf = (project: Project) => project.sources[0]!

test('voices that reach no track are told by the wiring check, and its remedy seats them', () => {
  const project = player()
  expect(lostVoices(project, sourceOf(project))).toEqual([2, 3, 4])
  const remark = checkWiring(project).find((each) => each.id === 'voices lost s')!
  expect(remark.text).toContain('channels 2, 3 and 4')
  const seated = remark.fixes[0]!.change(project)
  expect(seated.tracks.map((track) => [track.name, track.routes[0]!.channel])).toEqual([
    ['Ada', 1],
    ['Ada, voice 2', 2],
    ['Ada, voice 3', 3],
    ['Ada, voice 4', 4],
  ])
  expect(seated.tracks.every((track) => track.instrument.kind === 'program' && track.isArmed)).toBe(true)
  expect(checkWiring(seated)).toEqual([])
  expect(seatVoices(seated, sourceOf(seated))).toBe(seated)
})

test('a track that hears every channel loses no voice; each voice can have its own all the same', () => {
  const project = player()
  const open = changeTrack(project, project.tracks[0]!.id, (track) => ({
    ...track,
    routes: [plainRoute({ portId: 'A', channel: null })],
  }))
  expect(lostVoices(open, sourceOf(open))).toEqual([])
  expect(voicesWithoutTrack(open, sourceOf(open))).toEqual([1, 2, 3, 4])
  expect(seatVoices(open, sourceOf(open)).tracks).toHaveLength(5)
})
