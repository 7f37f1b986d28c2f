import { emptyProject } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import type { KnownSoundInput } from '@/engine/soundInput/microphones'
import { createLiveState } from './liveState'
import { createProjectStore } from './projectStore'
import { createSoundInputs } from './soundInputs'

/** The machine: its inputs, whether the browser lets this page hear them, and what of them is open. */
const machine = {
  inputs: [] as KnownSoundInput[],
  isAllowed: true,
  follow: () => {},
  /** Opened devices by id, with how each is told that it was taken away. */
  open: new Map<string, () => void>(),
  /** Resolves when a device may open; null: at once. */
  gate: null as Promise<void> | null,
  refusal: null as Error | null,
}
const ears = new Set<{ kept: boolean; changed: unknown }>()

jest.mock('@/engine/soundInput/microphones', () => ({
  soundInputsOfMachine: async () => [...machine.inputs],
  isListeningAllowed: async () => machine.isAllowed,
  followSoundInputs(changed: () => void) {
    machine.follow = changed
    return () => undefined
  },
  microphone: (id: string) => ({
    async open(_context: unknown, lost: () => void) {
      await machine.gate
      if (machine.refusal) throw machine.refusal
      machine.open.set(id, lost)
      return { channelCount: 1, latencyMs: 7, remarks: [], close: () => machine.open.delete(id) }
    },
  }),
}))
jest.mock('@/engine/soundInput/earPort', () => ({
  EarPort: class extends EventTarget {
    kept = false
    changed: unknown = null
    constructor(
      readonly id: string,
      readonly name: string,
      _audio: unknown,
      private readonly device: { close(): void },
    ) {
      super()
      ears.add(this)
    }
    keep(isKept: boolean) {
      this.kept = isKept
    }
    change(input: unknown) {
      this.changed = input
    }
    tune() {}
    async settled() {}
    async close() {
      this.device.close()
      ears.delete(this)
    }
  },
}))
jest.mock('@/engine/soundInput/soundingStandIn', () => ({ SoundingStandIn: class {} }))
Object.assign(globalThis, {
  window: new EventTarget(),
  AudioContext: class {
    state = 'running'
    audioWorklet = { addModule: async () => {} }
    async close() {}
  },
})

const guitar: KnownSoundInput = { id: 'a1', name: 'Oak interface' }
const turns = async (count = 20) => {
  for (let turn = 0; turn < count; turn++) await Promise.resolve()
}
let close = async () => {}

async function opened(project: Project = emptyProject('piece', 'Piece', 0)) {
  const store = createProjectStore(project)
  store.getState().setReadOnly(false)
  const live = createLiveState()
  const joined: string[] = []
  const problems: string[] = []
  const inputs = createSoundInputs({
    store,
    live,
    join(port) {
      joined.push(port.id)
      return () => joined.splice(joined.indexOf(port.id), 1)
    },
    keeper: () => new MessageChannel().port1,
    problem: (text) => problems.push(text),
  })
  close = inputs.close
  await turns()
  const states = () => Object.values(live.getState().soundInputs).map(({ state }) => state)
  return { store, live, inputs, joined, problems, states }
}

/** One input of sound that is seated and listened to. */
async function listening() {
  machine.inputs = [guitar]
  const all = await opened()
  all.inputs.seat(guitar, 'guitar', 1)
  await turns()
  return all
}

beforeEach(() => {
  Object.assign(machine, { inputs: [], isAllowed: true, gate: null, refusal: null })
  machine.open.clear()
})
afterEach(() => close())

test('an input is seated with a track of its own, opened and followed as a source', async () => {
  const { store, joined, states, live } = await listening()
  const { sources, tracks } = store.getState().project
  expect(sources.map(({ name, kind }) => [name, kind])).toEqual([['Oak interface', 'soundInput']])
  expect(tracks).toHaveLength(1)
  expect(states()).toEqual(['listening'])
  expect(joined).toEqual([sources[0]!.address.portId])
  expect(live.getState().soundInputs[sources[0]!.id]).toMatchObject({ channelCount: 1, latencyMs: 7 })
})

test('undo lets go of it, redo listens again', async () => {
  const { store, joined, states } = await listening()
  store.getState().undo()
  await turns()
  expect([states(), joined, machine.open.size]).toEqual([[], [], 0])
  store.getState().redo()
  await turns()
  expect([states(), machine.open.size]).toEqual([['listening'], 1])
})

test('one that is taken away says so, and is listened to again when it is back', async () => {
  const { joined, states } = await listening()
  machine.inputs = []
  machine.open.get('a1')!()
  await turns()
  expect([states(), joined]).toEqual([['absent'], []])
  // Back under another identifier: its name finds it.
  machine.inputs = [{ id: 'b7', name: 'Oak interface' }]
  machine.follow()
  await turns()
  expect([states(), [...machine.open.keys()]]).toEqual([['listening'], ['b7']])
})

test('one that may not be heard says why, and is opened by a press', async () => {
  machine.refusal = new Error('The browser does not let this page hear it')
  const { store, inputs, states, live } = await listening()
  const { id } = store.getState().project.sources[0]!
  expect(live.getState().soundInputs[id]).toEqual({
    state: 'absent',
    reason: 'The browser does not let this page hear it',
  })
  machine.refusal = null
  inputs.listen(id)
  await turns()
  expect(states()).toEqual(['listening'])
})

test('a piece with an input waits for a press where the browser would ask', async () => {
  const { store } = await listening()
  const { project } = store.getState()
  await close()
  machine.isAllowed = false
  const { states } = await opened(project)
  expect(states()).toEqual(['waiting'])
})

test('of two tabs the one that only reads does not listen, and does when it takes the piece over', async () => {
  const { store, states } = await listening()
  store.getState().setReadOnly(true)
  await turns()
  expect([states(), machine.open.size]).toEqual([['waiting'], 0])
  store.getState().setReadOnly(false)
  await turns()
  expect([states(), machine.open.size]).toEqual([['listening'], 1])
})

test('one that is let go of while it opens is closed as soon as it is open', async () => {
  machine.inputs = [guitar]
  const { store, inputs, joined, states } = await opened()
  let letOpen = () => {}
  machine.gate = new Promise((resolve) => {
    letOpen = resolve
  })
  inputs.seat(guitar, 'guitar', 1)
  await turns()
  expect(states()).toEqual(['opening'])
  store.getState().undo()
  letOpen()
  await turns()
  expect([states(), joined, machine.open.size, ears.size]).toEqual([[], [], 0, 0])
})

test('sound is kept while the piece listens or records, and not otherwise', async () => {
  const { store, live } = await listening()
  const [ear] = [...ears]
  expect(ear!.kept).toBe(store.getState().project.isListening)
  store.getState().apply('do not listen', (project) => ({ ...project, isListening: false }))
  expect(ear!.kept).toBe(false)
  const { transport } = live.getState()
  live.setState({ transport: { ...transport, state: 'recording' } as typeof transport })
  expect(ear!.kept).toBe(true)
})

test('a setting reaches the input that listens, without opening it anew', async () => {
  const { store, inputs } = await listening()
  const [source] = store.getState().project.sources
  const [ear] = [...ears]
  inputs.change(source!.id, 'hear less', { sensitivity: 0.2 } as never)
  await turns()
  expect([...ears]).toEqual([ear])
  expect(ear!.changed).toBe(store.getState().project.sources[0]!.soundInput)
})
