import { createDemo } from '@/core/demo/harbourEvening'
import { newSlot } from '@/core/effects/catalogue'
import { setEffects } from '@/core/project/commands'
import { emptyProject, projectEndTicks } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import type { Stretch } from '@/core/time/timeSchemas'
import type { ToEngine, TransportState } from '@/engine/protocol'
import { createProjectStore } from './projectStore'
import { createTransportControl } from './transportControl'

const demo = createDemo('demo', 0, 'computer-keyboard').project
const bar = 40_320

/** The demo with a transport that only remembers what it is told. */
function workshop(project: Project = demo) {
  const store = createProjectStore(project)
  let transport: TransportState = { state: 'stopped', ticks: 0 }
  const told: ToEngine[] = []
  const order: string[] = []
  const control = createTransportControl({
    store,
    transport: () => transport,
    stand: (ticks) => {
      transport = { state: 'stopped', ticks }
    },
    tellEngine: (message) => {
      told.push(message)
      order.push(message.type)
    },
    startAudio: async () => void order.push('audio'),
    flush: async () => void order.push('stored'),
    onRecord: () => order.push('begun'),
  })
  return {
    store,
    told,
    order,
    control,
    setTransport: (next: TransportState) => {
      transport = next
    },
  }
}

const marked = (stretch: Stretch, isLooping: boolean, project = demo): Project => ({
  ...project,
  recording: { ...project.recording, stretch, isLooping },
})

test('plays on from where it stands, and from the beginning after the end', async () => {
  const { control, told } = workshop()
  control.seek(bar)
  await control.playOn()
  expect(told.at(-1)).toEqual({
    type: 'play',
    fromTicks: bar,
    untilTicks: projectEndTicks(demo),
    loop: null,
  })
  control.seek(projectEndTicks(demo) + bar)
  await control.playOn()
  expect(told.at(-1)).toMatchObject({ fromTicks: 0 })
})

test('a loop has no end; a place behind it begins the loop anew', async () => {
  const loop = { startTicks: bar, endTicks: bar * 3 }
  const { control, told } = workshop(marked(loop, true))
  control.seek(bar * 2)
  await control.playOn()
  expect(told.at(-1)).toEqual({ type: 'play', fromTicks: bar * 2, untilTicks: null, loop })
  control.seek(bar * 5)
  await control.playOn()
  expect(told.at(-1)).toMatchObject({ fromTicks: bar, loop })
})

test('recording is ready in every respect before the engine is told', async () => {
  const { control, told, order, store } = workshop()
  const serial = demo.nextSerial
  await control.record()
  expect(order).toEqual(['audio', 'begun', 'stored', 'record'])
  expect(told.at(-1)).toMatchObject({ type: 'record', projectId: 'demo', takeSerial: serial, fromTicks: 0 })
  expect(store.getState().project.nextSerial).toBe(serial + 1)
})

test('a marked stretch is recorded with a run-up from the playing position, a loop without', async () => {
  const stretch = { startTicks: bar * 4, endTicks: bar * 6 }
  const lead = workshop(marked(stretch, false))
  lead.control.seek(bar * 3 + 500)
  await lead.control.record()
  expect(lead.told.at(-1)).toMatchObject({
    fromTicks: bar * 3,
    startTicks: bar * 4,
    endTicks: bar * 6,
    isLooping: false,
  })
  const round = workshop(marked(stretch, true))
  round.control.seek(bar * 3)
  await round.control.record()
  expect(round.told.at(-1)).toMatchObject({ fromTicks: bar * 4, startTicks: bar * 4, isLooping: true })
  const behind = workshop(marked(stretch, false))
  behind.control.seek(bar * 4)
  expect(behind.control.recordingStartTicks()).toBe(bar * 4)
})

test('a reader records nothing; while it records the place stays', async () => {
  const { control, told, store, setTransport } = workshop()
  store.getState().setReadOnly(true)
  await control.record()
  expect(told).toEqual([])
  store.getState().setReadOnly(false)
  setTransport({ state: 'recording', fromTicks: 0, startedAtMs: 0, loop: null, line: null, tempos: [] })
  control.seek(bar)
  expect(told).toEqual([])
})

test('chance is thrown at a start, outside history; a reader throws nothing', async () => {
  const loose = { ...newSlot('chancePitch', 'a', {}, 7), isSeedKept: false }
  const { control, store } = workshop(setEffects(demo, demo.tracks[0]!.id, [loose]))
  const seeds = () => store.getState().project.tracks[0]!.effects[0]!.earlierSeeds
  await control.playOn()
  expect(seeds()).toEqual([7])
  expect(store.getState().past).toEqual([])
  store.getState().setReadOnly(true)
  await control.playOn()
  expect(seeds()).toEqual([7])
})

test('an empty piece can be played and recorded from its beginning', async () => {
  const { control, told } = workshop(emptyProject('p', 'Piece', 0))
  await control.playOn()
  expect(told.at(-1)).toMatchObject({ type: 'play', fromTicks: 0, untilTicks: 0 })
  await control.record()
  expect(told.at(-1)).toMatchObject({ type: 'record', fromTicks: 0, startTicks: 0, endTicks: null })
})
