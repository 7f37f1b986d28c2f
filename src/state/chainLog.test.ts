import { newSlot } from '@/core/effects/catalogue'
import { addSource, changeTrack, setEffects } from '@/core/project/commands'
import { emptyProject } from '@/core/project/create'
import { addGenerator } from '@/core/project/generatorCommands'
import type { Project } from '@/core/project/schema'
import { createChainLog } from './chainLog'
import { createProjectStore } from './projectStore'

const address = { portId: 'A', channel: 1 }
const up = (semitones: number) => [newSlot('transpose', 'a', { semitones })]

/** One player on one track, armed; the place of the transport is moved by hand. */
function workshop(change: (project: Project) => Project = (project) => project) {
  const seated = addSource(
    emptyProject('p', 'Piece', 0),
    {
      id: 's',
      name: 'Ada',
      kind: 'midiPort',
      address,
      description: '',
      portName: '',
      group: '',
      compensationMs: 0,
      soundInput: null,
      effects: [],
    },
    { kind: 'program', program: 0 },
  )
  const store = createProjectStore(change(seated))
  const trackId = seated.tracks[0]!.id
  let ticks = 0
  const log = createChainLog(store, () => ticks)
  const apply = (next: (project: Project) => Project) => store.getState().apply('change', next)
  return {
    store,
    log,
    trackId,
    at: (tick: number) => {
      ticks = tick
    },
    setTrack: (semitones: number) => apply((project) => setEffects(project, trackId, up(semitones))),
    apply,
  }
}

test('a pattern of a track that is changed while it plays stays as it was at the start, with its changes', () => {
  const { log, store, at, trackId, setTrack } = workshop()
  setTrack(12)
  const earlier = { tick: 5040, slots: up(9) }
  const stale = { tick: 90_000, slots: up(1) }
  store
    .getState()
    .apply('earlier', (project) =>
      changeTrack(project, trackId, (track) => ({ ...track, effectChanges: [earlier, stale] })),
    )
  log.begin(5)
  at(40_320)
  setTrack(-12)
  const after = log.finish(5)(store.getState().project)
  const track = after.tracks.find((each) => each.id === trackId)!
  expect(track.effects).toEqual(up(12))
  // What was changed in an earlier performance after this place has been played over.
  expect(track.effectChanges).toEqual([earlier, { tick: 40_320, slots: up(-12) }])
})

test('a take that was not recorded just now changes nothing else, and ends no recording', () => {
  const { log, store, at, trackId, setTrack } = workshop()
  log.begin(5)
  at(10_080)
  setTrack(7)
  const { project } = store.getState()
  expect(log.finish(4)(project)).toBe(project)
  expect(
    log
      .finish(5)(project)
      .tracks.find(({ id }) => id === trackId)!.effectChanges,
  ).toHaveLength(1)
})

test('a generator rests when what it played is on armed tracks, and plays on when nobody recorded it', () => {
  const { log, store, apply } = workshop((project) => addGenerator(project, 'chords').project)
  log.begin(5)
  expect(log.finish(5)(store.getState().project).generators[0]!.isPlaying).toBe(false)
  apply((project) => ({ ...project, tracks: project.tracks.map((track) => ({ ...track, isArmed: false })) }))
  log.begin(6)
  expect(log.finish(6)(store.getState().project).generators[0]!.isPlaying).toBe(true)
})

test('after it is closed nothing is followed', () => {
  const { log, store, at, trackId, setTrack } = workshop()
  log.begin(5)
  log.close()
  at(10_080)
  setTrack(7)
  const after = log.finish(5)(store.getState().project)
  expect(after.tracks.find(({ id }) => id === trackId)!.effectChanges).toEqual([])
})
