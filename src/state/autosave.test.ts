import 'fake-indexeddb/auto'
import { createDemo } from '@/core/demo/harbourEvening'
import type { Manuscript } from '@/core/notation/manuscript/manuscript'
import { changeTrack } from '@/core/project/commands'
import type { Project } from '@/core/project/schema'
import { startAutosave } from './autosave'
import { loadProject, saveProject, takeHolding } from './database'
import { createHolding } from './holding'
import { createProjectStore } from './projectStore'
import { giveWebStorage } from './webStorage.testing'

/** The little of a page that saving listens to. */
const page = Object.assign(new EventTarget(), { visibilityState: 'visible' })
const frame = new EventTarget()
Object.assign(globalThis, { document: page, window: frame })

const demo = createDemo('demo', 1000, 'computer-keyboard').project
const named = (project: Project, name: string) =>
  changeTrack(project, project.tracks[0]!.id, (track) => ({ ...track, name }))
const nameOfFirst = async (id: string) => (await loadProject(id))!.project.tracks[0]!.name

let count = 0
/** A piece that is stored and opened, with what saving it said. */
async function opened() {
  const project = { ...demo, id: `piece-${++count}` }
  await saveProject(project, new Map(), 5000)
  const holding = createHolding(project.id)
  holding.begin()
  await holding.number()
  const store = createProjectStore(project)
  const sentences: string[] = []
  const autosave = startAutosave({
    store,
    stored: { project, changedAtMs: 5000 },
    holding,
    onSaved: () => {},
    onWrittenAgain: (sentence) => sentences.push(sentence),
  })
  const rename = (name: string) => store.getState().apply('rename', (now) => named(now, name))
  const until = async (state: string) => {
    for (let turn = 0; autosave.status.getState().state !== state; turn++) {
      if (turn > 400) throw new Error(`It is ${autosave.status.getState().state}, not ${state}`)
      await new Promise((resolve) => setTimeout(resolve, 10))
    }
  }
  return { id: project.id, store, autosave, rename, until, sentences }
}

afterEach(() => jest.restoreAllMocks())

describe('saving by itself', () => {
  test('a change waits for a little quiet and is stored then', async () => {
    const { id, autosave, rename, until } = await opened()
    rename('Reed')
    expect(autosave.status.getState().state).toBe('waiting')
    expect(await nameOfFirst(id)).not.toBe('Reed')
    await until('saved')
    expect(await nameOfFirst(id)).toBe('Reed')
    await autosave.stop()
  })

  test('changes that never pause are stored all the same', async () => {
    const { id, autosave, rename } = await opened()
    const seen = new Set<string>()
    for (let turn = 0; turn < 40; turn++) {
      rename(`Name ${turn}`)
      await new Promise((resolve) => setTimeout(resolve, 60))
      seen.add(await nameOfFirst(id))
    }
    // The name it had, and at least one of those on the way.
    expect(seen.size).toBeGreaterThan(1)
    await autosave.stop()
    expect(await nameOfFirst(id)).toBe('Name 39')
  })

  test('where storage is full it says so, since when, and stores the next change when there is room', async () => {
    const { id, autosave, rename, until } = await opened()
    const full = jest.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    rename('Lost?')
    await until('failed')
    const failed = autosave.status.getState()
    expect(failed).toMatchObject({ reason: 'The browser’s storage is full' })
    rename('Still full')
    await autosave.flush()
    expect(autosave.status.getState()).toEqual(failed)
    full.mockRestore()
    rename('Room again')
    await autosave.flush()
    expect(autosave.status.getState().state).toBe('saved')
    expect(await nameOfFirst(id)).toBe('Room again')
    await autosave.stop()
  })

  test('what storage refused is stored by itself when there is room, also if nothing more is changed', async () => {
    const { id, autosave, rename, until } = await opened()
    const full = jest.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    rename('The last change')
    await until('failed')
    full.mockRestore()
    await until('saved')
    expect(await nameOfFirst(id)).toBe('The last change')
    await autosave.stop()
  })

  test('a tab that slept while another took the piece writes nothing, neither then nor when it goes', async () => {
    const { id, autosave, rename } = await opened()
    await takeHolding(id)
    await takeHolding(id)
    rename('Dreamt')
    frame.dispatchEvent(new Event('pagehide'))
    await new Promise((resolve) => setTimeout(resolve, 50))
    expect(autosave.status.getState()).toEqual({ state: 'conflict', conflict: 'taken' })
    rename('Awake')
    await autosave.flush()
    expect(autosave.status.getState()).toEqual({ state: 'conflict', conflict: 'taken' })
    expect(await nameOfFirst(id)).not.toMatch(/Dreamt|Awake/)
    await autosave.stop()
  })

  test('a change of how a clip is written is a change', async () => {
    const { id, store, autosave, until } = await opened()
    const [track] = store.getState().project.tracks
    const [clip] = track!.clips
    const manuscript: Manuscript = {
      clefs: ['treble'],
      ...{
        heads: [],
        within: [],
        graces: [],
        signs: [],
        fingerings: [],
        slurs: [],
        glissandi: [],
        levels: [],
      },
      ...{ hairpins: [], pedals: [], clefChanges: [], octaveLines: [], reached: [], layouts: [] },
      end: [clip!.notes[0]!.id, 0],
    }
    store.getState().apply('write', (project) =>
      changeTrack(project, track!.id, (each) => ({
        ...each,
        clips: each.clips.map((one) => (one === clip ? { ...one, manuscript } : one)),
      })),
    )
    await until('saved')
    const loaded = (await loadProject(id))!.project
    expect(loaded.tracks[0]!.clips[0]!.manuscript).toEqual(manuscript)
    await autosave.stop()
  })

  test('what another tab has stored meanwhile is not written over unasked', async () => {
    const { id, store, autosave, rename } = await opened()
    await saveProject(named(store.getState().project, 'Of the other tab'), new Map(), 9000)
    rename('Of this tab')
    await autosave.flush()
    expect(autosave.status.getState()).toMatchObject({ state: 'conflict' })
    rename('Again')
    await autosave.flush()
    expect(await nameOfFirst(id)).toBe('Of the other tab')
    await autosave.writeOver()
    expect(autosave.status.getState().state).toBe('saved')
    expect(await nameOfFirst(id)).toBe('Again')
    await autosave.stop()
  })

  test('a page that is hidden or left stores at once, with what was being typed', async () => {
    const { id, autosave, rename, until } = await opened()
    let typed: string | null = 'Typed'
    const end = autosave.holdEdit(() => {
      if (typed) rename(typed)
      typed = null
    })
    page.visibilityState = 'hidden'
    page.dispatchEvent(new Event('visibilitychange'))
    page.visibilityState = 'visible'
    await until('saved')
    expect(await nameOfFirst(id)).toBe('Typed')
    typed = 'Typed when it was left'
    frame.dispatchEvent(new Event('pagehide'))
    await until('saved')
    expect(await nameOfFirst(id)).toBe('Typed when it was left')
    end()
    await autosave.stop()
  })

  test('what a page says last is not lost where the database lets go of it', async () => {
    const { kept } = giveWebStorage()
    const { id, autosave, rename, until } = await opened()
    const end = autosave.holdEdit(() => rename('Typed at the door'))
    const letsGo = jest.spyOn(IDBDatabase.prototype, 'transaction').mockImplementation(() => {
      throw new DOMException('The connection is closing', 'InvalidStateError')
    })
    frame.dispatchEvent(new Event('pagehide'))
    end()
    await until('failed')
    letsGo.mockRestore()
    expect(await nameOfFirst(id)).toBe('Typed at the door')
    expect(kept.size).toBe(0)
    await autosave.stop()
  })

  test('a page that comes back has its last word stored, and none left over', async () => {
    const { kept } = giveWebStorage()
    const { id, autosave, rename, until } = await opened()
    rename('Looked at again')
    frame.dispatchEvent(new Event('pagehide'))
    expect(kept.size).toBe(1)
    await until('saved')
    expect(kept.size).toBe(0)
    rename('And changed')
    await autosave.flush()
    expect(await nameOfFirst(id)).toBe('And changed')
    await autosave.stop()
  })

  test('a piece that is only read is not written', async () => {
    const { id, store, autosave } = await opened()
    store.setState({ isReadOnly: true, project: named(store.getState().project, 'Changed elsewhere') })
    await autosave.flush()
    expect(await nameOfFirst(id)).not.toBe('Changed elsewhere')
    await autosave.stop()
  })
})
