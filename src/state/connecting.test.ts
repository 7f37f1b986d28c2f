import { createDemo } from '@/core/demo/harbourEvening'
import { changeTrack } from '@/core/project/commands'
import { cablePortId } from '@/core/routing/ports'
import type { Activity, ToEngine } from '@/engine/protocol'
import { createConnecting } from './connecting'
import { createLiveState } from './liveState'
import { createProjectStore } from './projectStore'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const [first, second] = demo.tracks

function workshop(project = demo) {
  const store = createProjectStore(project)
  const live = createLiveState()
  const told: ToEngine[] = []
  const problems: string[] = []
  const connecting = createConnecting({
    store,
    live,
    tellEngine: (message) => told.push(message),
    problem: (sentence) => problems.push(sentence),
  })
  const trackNow = (id: string) => store.getState().project.tracks.find((track) => track.id === id)!
  return { store, live, told, problems, connecting, trackNow }
}

const stroke = (portId: string, channel: number, isOn = true): Activity =>
  ({ portId, channel, key: 60, velocity: 80, isOn, timeMs: 0 }) as Activity

test('a track that waits takes the first stream that strikes a note, in one step of history', () => {
  const { store, live, connecting, trackNow } = workshop()
  connecting.assignToWhoeverPlays([stroke('pier', 3)])
  expect(store.getState().past).toHaveLength(0)
  connecting.assignByPlaying(first!.id)
  connecting.assignToWhoeverPlays([stroke('pier', 5, false)])
  expect(live.getState().assigningTrackId).toBe(first!.id)
  connecting.assignToWhoeverPlays([stroke('pier', 3), stroke('buoy', 1)])
  expect(live.getState().assigningTrackId).toBeNull()
  expect(trackNow(first!.id).routes).toMatchObject([{ portId: 'pier', channel: 3 }])
  expect(store.getState().past).toHaveLength(1)
})

test('a way that would feed itself is refused and said; one that was there already does not bar others', () => {
  const hearing = changeTrack(demo, first!.id, (track) => ({
    ...track,
    routes: [{ ...track.routes[0]!, portId: cablePortId('Pier'), channel: null }],
  }))
  const { store, problems, connecting, trackNow } = workshop(hearing)
  connecting.setSend(first!.id, { portId: cablePortId('Pier'), channel: null })
  expect(problems).toEqual([
    expect.stringMatching(/^That would feed back: .* → .*\. .*Nothing was changed\.$/),
  ])
  expect(trackNow(first!.id).sendTo).toBeNull()
  expect(store.getState().past).toHaveLength(0)
  connecting.setSend(second!.id, { portId: cablePortId('Buoy'), channel: 2 })
  expect(trackNow(second!.id).sendTo).toEqual({ portId: cablePortId('Buoy'), channel: 2 })
})

test('arming is a step of history; a port that was shut is opened in the engine', () => {
  const { store, live, told, connecting, trackNow } = workshop()
  connecting.setArmed(first!.id, false)
  expect(trackNow(first!.id).isArmed).toBe(false)
  store.getState().undo()
  expect(trackNow(first!.id).isArmed).toBe(true)
  live.setState({ shutPortId: 'pier' })
  connecting.openPort('pier')
  expect(told).toEqual([{ type: 'openPort', portId: 'pier' }])
  expect(live.getState().shutPortId).toBeNull()
})
