import { createDemo } from '@/core/demo/harbourEvening'
import { newSlot } from '@/core/effects/catalogue'
import { unpackNotes } from '@/core/event/noteColumns'
import { changeNotes, changeTrack, setEffects } from '@/core/project/commands'
import { soundingNotes } from '@/core/project/create'
import { addGenerator } from '@/core/project/generatorCommands'
import { printTracks } from '@/core/project/printing'
import { cablePortId } from '@/core/routing/ports'
import { createEnginePicture, engineSetupOf } from './enginePicture'
import type { ToEngine } from './protocol'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const firstId = demo.tracks[0]!.id
const setupOf = (project = demo) => engineSetupOf(project, () => 3)
const audible = (project: typeof demo) =>
  setupOf(project)
    .tracks.filter((track) => track.isAudible)
    .map((track) => track.id)

test('solo silences the others, mute itself, and both together are silence', () => {
  expect(audible(demo)).toEqual(demo.tracks.map((track) => track.id))
  const solo = changeTrack(demo, firstId, (track) => ({ ...track, isSolo: true }))
  expect(audible(solo)).toEqual([firstId])
  expect(audible(changeTrack(solo, firstId, (track) => ({ ...track, isMuted: true })))).toEqual([])
})

test('effects that rest are not told; those of a player are, once it has any', () => {
  const withEffects = setEffects(demo, firstId, [newSlot('transpose', 'a', { semitones: 12 })])
  expect(setupOf(withEffects).tracks[0]!.slots).toHaveLength(1)
  const printed = printTracks(withEffects, [firstId], { stretch: null, isSplit: false }).project
  expect(setupOf(printed).tracks[0]!.slots).toEqual([])
  expect(setupOf().sourceChains).toEqual([])
  const player = demo.sources[0]!
  const slots = [newSlot('echo', 'e')]
  const sources = demo.sources.map((source) => (source === player ? { ...source, effects: slots } : source))
  expect(setupOf({ ...demo, sources }).sourceChains).toEqual([{ ...player.address, slots }])
})

test('cables that anything is connected to are read, each once', () => {
  const heard = changeTrack(demo, firstId, (track) => ({
    ...track,
    routes: [{ ...track.routes[0]!, portId: cablePortId('Pier') }],
  }))
  const project = {
    ...heard,
    cables: ['Mole', 'Pier'],
    clock: { ...heard.clock, follow: cablePortId('Quay') },
  }
  expect([...setupOf(project).cables].sort()).toEqual(['Mole', 'Pier', 'Quay'])
})

test('notes and generators are told when they change, and only those that did', () => {
  const told: ToEngine[] = []
  const picture = createEnginePicture(
    (message) => told.push(message),
    () => 1,
  )
  const tellOf = (project: typeof demo) => {
    told.length = 0
    picture.tell(project)
    return told.map((message) => (message.type === 'trackContent' ? message.trackId : message.type))
  }
  expect(tellOf(demo)).toEqual(['setup', 'generators', ...demo.tracks.map((track) => track.id)])
  expect(tellOf({ ...demo, name: 'Other' })).toEqual(['setup'])
  const moved = changeNotes(demo, firstId, (notes) => notes.map((note) => ({ ...note, key: note.key + 1 })))
  expect(tellOf(moved)).toEqual(['setup', firstId])
  const content = told.at(-1)!
  if (content.type !== 'trackContent') throw new Error('no content')
  expect(unpackNotes(content.notes).map((note) => note.key)).toEqual(
    soundingNotes(moved.tracks[0]!).map((note) => note.key),
  )
  const generated = addGenerator(moved, 'lanes').project
  expect(tellOf(generated)).toEqual(
    expect.arrayContaining(['setup', 'generators', ...generated.tracks.slice(-2).map((track) => track.id)]),
  )
})
