import { emptyProject } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import type { ToEngine } from '@/engine/protocol'
import { createProjectStore } from './projectStore'
import { createSources } from './sources'

/** Those who wait for the page to be free. */
const free: (() => void)[] = []
jest.mock('@/engine/midiInput/quiet', () => ({
  whenPageIsFree: () => new Promise<void>((resolve) => free.push(resolve)),
}))

/** A port of the shape of the W3C Web MIDI API, with what was sent to it. */
function midiPort(id: string, name: string) {
  const sent: { bytes: readonly number[]; timestamp: number | undefined }[] = []
  const target = new EventTarget()
  return Object.assign(target, {
    id,
    name,
    state: 'connected' as const,
    sent,
    send(bytes: readonly number[], timestamp?: number) {
      sent.push({ bytes, timestamp })
    },
    play(...bytes: number[]) {
      target.dispatchEvent(Object.assign(new Event('midimessage'), { data: Uint8Array.from(bytes) }))
    },
  })
}

type Port = ReturnType<typeof midiPort>

const access = Object.assign(new EventTarget(), {
  inputs: new Map<string, Port>(),
  outputs: new Map<string, Port>(),
})
const plug = (port: Port) => {
  access.inputs.set(port.id, port)
  access.outputs.set(port.id, port)
  access.dispatchEvent(new Event('statechange'))
}
const unplug = (port: Port) => {
  access.inputs.delete(port.id)
  access.outputs.delete(port.id)
  access.dispatchEvent(new Event('statechange'))
}
const page = Object.assign(new EventTarget(), { visibilityState: 'visible' })
Object.assign(globalThis, { window: new EventTarget(), document: page })
Object.defineProperty(globalThis, 'navigator', {
  value: { requestMIDIAccess: async () => access },
  configurable: true,
})

/** Keys of what was played, and the kinds of all else the engine was told. */
const inOrder = (told: readonly ToEngine[]) =>
  told.flatMap((message): (number | string)[] =>
    message.type === 'input' ? message.events.map(({ data1 }) => data1) : [message.type],
  )

let close = () => {}

/** The sources of a piece, with what they tell. */
async function opened(project: Project = emptyProject('piece', 'Piece', 0)) {
  const told: ToEngine[] = []
  const problems: string[] = []
  const waiting: { trackId: string | null } = { trackId: null }
  const store = createProjectStore(project)
  store.getState().setReadOnly(false)
  const sources = createSources({
    store,
    files: { seated: () => [] } as unknown as Parameters<typeof createSources>[0]['files'],
    toEngine: (message) => told.push(message),
    beforeSound: () => {},
    midi: () => {},
    keyboard: () => {},
    isSeatingEveryone: () => false,
    takeWaitingTrack() {
      const { trackId } = waiting
      waiting.trackId = null
      return trackId
    },
    problem: (text) => problems.push(text),
    soundHeard: async () => {},
  })
  close = sources.close
  // The ports are asked for.
  await new Promise((resolve) => setTimeout(resolve, 0))
  const names = () => store.getState().project.sources.map(({ name }) => name)
  return { sources, store, told, problems, waiting, names }
}

/** The same with a keyboard on a port. */
async function withKeys() {
  const keys = midiPort('keys', 'Grey keyboard')
  const all = await opened()
  plug(keys)
  return { ...all, keys }
}

afterEach(() => {
  free.length = 0
  close()
  access.inputs.clear()
  access.outputs.clear()
})

describe('who plays', () => {
  test('a stream takes a seat at its first note, under the name of its port, and once', async () => {
    const { keys, names, told } = await withKeys()
    keys.play(0xb0, 64, 127)
    expect(names()).not.toContain('Grey keyboard, channel 1')
    keys.play(0x90, 60, 80)
    keys.play(0x90, 64, 80)
    expect(names().filter((name) => name === 'Grey keyboard, channel 1')).toHaveLength(1)
    await new Promise((resolve) => setTimeout(resolve, 20))
    const events = told.flatMap((message) => (message.type === 'input' ? message.events : []))
    expect(events.map(({ data1 }) => data1)).toEqual([64, 60, 64])
  })

  test('a stream that told its instrument is named by it; the tenth channel is drums', async () => {
    const { keys, names } = await withKeys()
    keys.play(0xc1, 73)
    keys.play(0x91, 60, 80)
    keys.play(0x99, 36, 80)
    expect(names()).toEqual(expect.arrayContaining(['Grey keyboard, Flute', 'Grey keyboard, drums']))
  })

  test('a track that waits for a player gets the next one, and no other does', async () => {
    const { keys, store, waiting } = await withKeys()
    keys.play(0x90, 60, 80)
    const [track] = store.getState().project.tracks
    waiting.trackId = track!.id
    keys.play(0x91, 60, 80)
    keys.play(0x91, 62, 80)
    const heard = store
      .getState()
      .project.tracks.map(({ routes }) => routes.map(({ portId, channel }) => ({ portId, channel })))
    expect(heard).toEqual([[{ portId: 'keys', channel: 2 }]])
    expect(waiting.trackId).toBeNull()
  })

  test('nobody is seated in a piece that another tab has', async () => {
    const { keys, store, names } = await withKeys()
    store.getState().setReadOnly(true)
    const before = names()
    keys.play(0x90, 60, 80)
    expect(names()).toEqual(before)
  })

  test('what is no MIDI is left out, and said once', async () => {
    const { keys, problems, told } = await withKeys()
    keys.play(0x90, 200, 80)
    keys.play(0x90, 200, 80)
    expect(problems).toHaveLength(1)
    expect(problems[0]).toContain('Grey keyboard')
    expect(told).toEqual([])
  })
})

describe('a port that vanishes', () => {
  test('is lost after what it sent last, and before all is said to be handed over', async () => {
    const { keys, sources, told } = await withKeys()
    keys.play(0x90, 60, 80)
    keys.play(0x90, 64, 80)
    unplug(keys)
    // Both wait for the page to be free; what is asked for last is answered first.
    const handedOver = sources.handedOver()
    free.pop()!()
    await handedOver
    expect(inOrder(told)).toEqual([60, 64, 'portLost'])
  })

  test('and comes back at once is lost first', async () => {
    const { keys, told } = await withKeys()
    keys.play(0x90, 60, 80)
    unplug(keys)
    plug(keys)
    keys.play(0x90, 62, 80)
    free.pop()!()
    await new Promise((resolve) => setTimeout(resolve, 20))
    expect(inOrder(told)).toEqual([60, 'portLost', 62])
  })
})

describe('what goes out', () => {
  test('a port that refuses is said once, and the others get theirs', async () => {
    const [organ, bells] = [midiPort('organ', 'Old organ'), midiPort('bells', 'New bells')]
    const { sources, problems } = await opened()
    plug(organ)
    plug(bells)
    organ.send = () => {
      throw new DOMException('the device is gone', 'InvalidStateError')
    }
    for (const key of [60, 62])
      sources.send(['organ', 'bells'].map((portId) => ({ portId, timeMs: 0, bytes: [0x90, key, 80] })))
    expect(problems).toHaveLength(1)
    expect(problems[0]).toContain('Old organ')
    expect(bells.sent.map(({ bytes }) => bytes[1])).toEqual([60, 62])
  })

  test('a page that goes lets go of every note: at once, and behind what was handed over for later', async () => {
    const bells = midiPort('bells', 'New bells')
    const { sources } = await opened()
    plug(bells)
    sources.send([{ portId: 'bells', timeMs: 0, bytes: [0x92, 60, 80] }])
    sources.letGo()
    const ends = bells.sent.slice(1)
    expect(ends.map(({ bytes }) => [...bytes].slice(0, 2))).toEqual([
      [0x82, 60],
      [0x82, 60],
    ])
    expect(ends[0]!.timestamp).toBeUndefined()
    expect(ends[1]!.timestamp).toBeGreaterThan(performance.now())
  })

  test('a port that is listened to by somebody else alone seats nobody and reaches no track', async () => {
    const { keys, sources, told, names } = await withKeys()
    const before = names()
    const heard: number[] = []
    const end = sources.divert('keys', ({ data1 }) => heard.push(data1))
    keys.play(0x90, 60, 80)
    expect([heard, told, names()]).toEqual([[60], [], before])
    end()
    keys.play(0x90, 62, 80)
    expect(told).toHaveLength(1)
  })
})
