import 'fake-indexeddb/auto'
import { createDemo } from '@/core/demo/harbourEvening'
import { changeTrack } from '@/core/project/commands'
import { journal } from '@/engine/journal/journal'
import {
  duplicateProject,
  emptyTrash,
  listProjects,
  loadProject,
  renameProject,
  saveProject,
  trashProject,
} from './database'
import { createProjectStore } from './projectStore'

const demo = createDemo('demo', 1000, 'computer-keyboard')

/** A take that is neither a stretch nor a loop. */
const openTake = { endTicks: null, earlyMs: 60, passMs: null }

describe('stored projects', () => {
  test('come back the same, and only changed clips are written again', async () => {
    const saved = new Map()
    await saveProject(demo.project, saved, 1)
    expect((await loadProject('demo'))!.project).toEqual(demo.project)
    const clipIds = [...saved.keys()]
    const changed = changeTrack(demo.project, demo.project.tracks[0]!.id, (track) => ({
      ...track,
      clips: [],
    }))
    await saveProject(changed, saved, 2)
    expect(saved.size).toBe(clipIds.length - 1)
    expect((await loadProject('demo'))!.project).toEqual(changed)
  })

  test('can be renamed, copied with their takes, deleted and brought back', async () => {
    await saveProject(demo.project, new Map(), 3)
    await journal.put(
      {
        projectId: 'demo',
        takeSerial: demo.takeSerial,
        startTicks: 0,
        anchorMs: 1000,
        endMs: 2000,
        ...openTake,
      },
      demo.events,
    )
    await renameProject('demo', 'Renamed')
    await duplicateProject('demo', 'copy', 4)
    expect((await listProjects()).map((project) => project.name).sort()).toEqual(['Renamed', 'Renamed copy'])
    expect(await journal.eventsOf('copy', demo.takeSerial)).toEqual(demo.events)
    await trashProject('demo', 5)
    expect(await loadProject('demo')).toBeNull()
    await trashProject('demo', null)
    expect((await loadProject('demo'))!.project.name).toBe('Renamed')
    await trashProject('copy', 5)
    await emptyTrash(5 + 8 * 24 * 3600 * 1000)
    expect(await journal.takesOf('copy')).toEqual([])
    expect((await listProjects()).map((project) => project.id)).toEqual(['demo'])
  })

  test('one that cannot be read is listed with the reason', async () => {
    await saveProject({ ...demo.project, id: 'future', schemaVersion: 99 as never }, new Map(), 6)
    const listed = (await listProjects()).find((project) => project.id === 'future')!
    expect(listed.problem).toMatch(/newer version/)
    await expect(loadProject('future')).rejects.toThrow(/newer version/)
  })
})

describe('the journal', () => {
  test('gives back what was appended, in order, also of a take that never finished', async () => {
    await journal.begin({
      projectId: 'p',
      takeSerial: 7,
      startTicks: 0,
      anchorMs: 0,
      endMs: null,
      ...openTake,
    })
    const half = Math.floor(demo.events.count / 2)
    const part = (from: number, to: number) => ({
      count: to - from,
      portIds: demo.events.portIds,
      timesMs: demo.events.timesMs.slice(from, to),
      ports: demo.events.ports.slice(from, to),
      statuses: demo.events.statuses.slice(from, to),
      data1: demo.events.data1.slice(from, to),
      data2: demo.events.data2.slice(from, to),
    })
    await journal.append('p', 7, 0, part(0, half))
    await journal.append('p', 7, 1, part(half, demo.events.count))
    expect(await journal.eventsOf('p', 7)).toEqual(demo.events)
    expect(await journal.takesOf('p')).toMatchObject([{ takeSerial: 7, endMs: null }])
  })
})

describe('history', () => {
  test('undo and redo go step by step and say what they do', () => {
    const store = createProjectStore(demo.project)
    const rename = (name: string) =>
      store.getState().apply(`rename to ${name}`, (project) => ({ ...project, name }))
    rename('One')
    rename('Two')
    expect(store.getState().past.map((step) => step.label)).toEqual(['rename to One', 'rename to Two'])
    store.getState().undo()
    expect(store.getState().project.name).toBe('One')
    store.getState().redo()
    expect(store.getState().project.name).toBe('Two')
    store.getState().undo()
    store.getState().undo()
    expect(store.getState().project.name).toBe(demo.project.name)
    rename('Three')
    expect(store.getState().future).toEqual([])
  })

  test('a slider is one step, numbers are never given twice, and a reader changes nothing', () => {
    const store = createProjectStore(demo.project)
    for (const name of ['a', 'b', 'c'])
      store.getState().apply('slide', (project) => ({ ...project, name }), 'slider')
    expect(store.getState().past).toHaveLength(1)
    store.getState().apply('number', (project) => ({ ...project, nextSerial: project.nextSerial + 5 }))
    const serial = store.getState().project.nextSerial
    store.getState().undo()
    expect(store.getState().project.nextSerial).toBe(serial)
    store.getState().setReadOnly(true)
    store.getState().apply('forbidden', (project) => ({ ...project, name: 'x' }))
    store.getState().undo()
    expect(store.getState().project.name).toBe('c')
  })
})
