import 'fake-indexeddb/auto'
import { createDemo } from '@/core/demo/harbourEvening'
import { changeTrack } from '@/core/project/commands'
import type { Project } from '@/core/project/schema'
import { asideOf, listProjects, loadProject, saveProject, takeHolding } from './database'
import { leaveLastWord, takeLastWordBack } from './lastWord'
import { giveWebStorage } from './webStorage.testing'

const { kept, setRoom } = giveWebStorage()
const demo = createDemo('demo', 1000, 'computer-keyboard').project
const storedAtMs = 5000
let count = 0

/** A piece that is stored, with what is stored of its clips. */
async function stored() {
  const project = { ...demo, id: `piece-${++count}` }
  const saved = new Map(project.tracks.flatMap(({ clips }) => clips.map((clip) => [clip.id, clip] as const)))
  await saveProject(project, new Map(), storedAtMs)
  return { project, saved }
}

/** Another name, another note, and one clip less. */
function changed(project: Project): Project {
  const [first, second] = project.tracks
  return changeTrack(
    changeTrack({ ...project, name: 'Changed at the door' }, first!.id, (track) => ({
      ...track,
      clips: track.clips.map((clip) => ({
        ...clip,
        notes: clip.notes.map((note) => ({ ...note, velocity: 99 })),
      })),
    })),
    second!.id,
    (track) => ({ ...track, clips: track.clips.slice(1) }),
  )
}

const when = { changedAtMs: 7000, followsAtMs: [storedAtMs], holding: null }
const nameOf = async ({ id }: Project) => (await loadProject(id))!.project.name

beforeEach(() => {
  kept.clear()
  setRoom(Number.POSITIVE_INFINITY)
})

describe('the last word of a page', () => {
  test('is stored when the piece is opened next, whole, under its moment', async () => {
    const { project, saved } = await stored()
    const last = changed(project)
    expect(leaveLastWord({ project: last, saved, ...when })).toBe(true)
    const loaded = (await loadProject(project.id))!
    expect(loaded.project).toEqual(last)
    expect(loaded).toMatchObject({ aside: [], changedAtMs: 7000 })
    expect(kept.size).toBe(0)
  })

  test('is on the shelf', async () => {
    const { project, saved } = await stored()
    leaveLastWord({ project: changed(project), saved, ...when })
    expect(await listProjects()).toContainEqual(
      expect.objectContaining({ id: project.id, name: 'Changed at the door' }),
    )
  })

  test('makes a piece of which nothing was stored yet', async () => {
    const project = { ...demo, id: 'new' }
    leaveLastWord({ project, saved: new Map(), ...when, followsAtMs: [] })
    expect((await loadProject('new'))!.project).toEqual(project)
  })

  test('follows the record that was on its way when the page went, whether that arrived or not', async () => {
    for (const hasArrived of [true, false]) {
      const { project, saved } = await stored()
      if (hasArrived) await saveProject({ ...project, name: 'On its way' }, new Map(), 6000)
      leaveLastWord({ project: changed(project), saved, ...when, followsAtMs: [storedAtMs, 6000] })
      expect(await nameOf(project)).toBe('Changed at the door')
    }
  })

  test.each<[string, (project: Project) => Promise<unknown>, string]>([
    [
      'changed elsewhere',
      (project) => saveProject({ ...project, name: 'Elsewhere' }, new Map(), 6500),
      'Elsewhere',
    ],
    [
      'taken by another tab',
      async ({ id }) => {
        await takeHolding(id)
        await takeHolding(id)
      },
      demo.name,
    ],
  ])('is let go where the piece was %s since', async (_, meanwhile, name) => {
    const { project, saved } = await stored()
    leaveLastWord({ project: changed(project), saved, ...when, holding: 1 })
    await meanwhile(project)
    expect(await nameOf(project)).toBe(name)
    expect(kept.size).toBe(0)
  })

  test('is taken back by a page that has stored it itself', async () => {
    const { project, saved } = await stored()
    leaveLastWord({ project: changed(project), saved, ...when })
    takeLastWordBack(project.id)
    expect(await nameOf(project)).toBe(demo.name)
  })

  test('is not left where there is no room, and says so', async () => {
    const { project, saved } = await stored()
    setRoom(1000)
    expect(leaveLastWord({ project: changed(project), saved, ...when })).toBe(false)
    setRoom(Number.POSITIVE_INFINITY)
    const [track] = project.tracks
    const [clip] = track!.clips
    const notes = Array.from({ length: 200_000 }, (_, index) => ({ ...clip!.notes[0]!, id: index }))
    const large = changeTrack(project, track!.id, (each) => ({ ...each, clips: [{ ...clip!, notes }] }))
    expect(leaveLastWord({ project: large, saved, ...when })).toBe(false)
  })

  describe('where storage is full', () => {
    const fill = () =>
      jest.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
        throw new DOMException('full', 'QuotaExceededError')
      })
    afterEach(() => jest.restoreAllMocks())

    test('is in the piece that is opened, which is still to be stored, and is stored when there is room', async () => {
      const { project, saved } = await stored()
      const last = changed(project)
      leaveLastWord({ project: last, saved, ...when })
      const full = fill()
      expect((await listProjects()).map(({ id }) => id)).toContain(project.id)
      expect(await loadProject(project.id)).toMatchObject({
        project: last,
        isStored: false,
        changedAtMs: storedAtMs,
      })
      full.mockRestore()
      expect(await loadProject(project.id)).toMatchObject({
        project: last,
        isStored: true,
        changedAtMs: 7000,
      })
      expect(kept.size).toBe(0)
    })

    test('and cannot be read, the shelf and the piece open all the same', async () => {
      const { project } = await stored()
      kept.set(`last word of ${project.id}`, '{')
      fill()
      expect((await listProjects()).map(({ id }) => id)).toContain(project.id)
      expect(await nameOf(project)).toBe(demo.name)
      expect(kept.size).toBe(1)
    })
  })

  test('a browser that allows no small storage goes without', async () => {
    const { project, saved } = await stored()
    const allowed = Object.getOwnPropertyDescriptor(globalThis, 'localStorage')!
    Object.defineProperty(globalThis, 'localStorage', {
      configurable: true,
      get() {
        throw new DOMException('not allowed', 'SecurityError')
      },
    })
    expect(leaveLastWord({ project: changed(project), saved, ...when })).toBe(false)
    expect(await nameOf(project)).toBe(demo.name)
    Object.defineProperty(globalThis, 'localStorage', allowed)
  })

  test.each(['{', '{"changedAtMs":1}', 'null'])('that cannot be read is kept aside: %s', async (text) => {
    const { project } = await stored()
    kept.set(`last word of ${project.id}`, text)
    expect(await nameOf(project)).toBe(demo.name)
    expect(await asideOf(project.id)).toMatchObject([{ path: 'last word', value: text }])
    expect(kept.size).toBe(0)
  })
})
