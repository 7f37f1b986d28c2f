import 'fake-indexeddb/auto'
import { openDB } from 'idb'
import { createDemo } from '@/core/demo/harbourEvening'
import { newSlot } from '@/core/effects/catalogue'
import { changeTrack } from '@/core/project/commands'
import { headOf } from '@/core/project/content'
import { journal } from '@/engine/journal/journal'
import { openAtUse } from '@/engine/openAtUse'
import {
  asideOf,
  duplicateProject,
  emptyTrash,
  keepAside,
  listProjects,
  loadProject,
  type ProjectConflictError,
  renameProject,
  saveProject,
  trashProject,
} from './database'
import { createProjectStore } from './projectStore'
import { dismissRecording, interruptedRecordings, recoverRecording } from './takes'

const demo = createDemo('demo', 1000, 'computer-keyboard')

/** A take that is neither a stretch nor a loop. */
const openTake = { endTicks: null, earlyMs: 60, passMs: null, playedTo: null }

/** Writes a record as no version of the program would, or as a very old one did. */
async function putRecord(record: object): Promise<void> {
  const db = await openDB('unbroken-voice')
  await db.put('projects', record)
  db.close()
}

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
    const head = { ...headOf(demo.project), id: 'future', schemaVersion: 99 }
    await putRecord({ id: 'future', head, changedAtMs: 6, trashedAtMs: null })
    const listed = (await listProjects()).find((project) => project.id === 'future')!
    expect(listed.problem).toMatch(/newer version/)
    await expect(loadProject('future')).rejects.toThrow(/newer version/)
  })
})

describe('records that are not as they should be', () => {
  test('one with a null in it is a line of the list, and the others are listed too', async () => {
    await saveProject({ ...demo.project, id: 'whole' }, new Map(), 10)
    await putRecord({
      id: 'nulls',
      head: { schemaVersion: 1, tracks: [null] },
      changedAtMs: 11,
      trashedAtMs: null,
    })
    await putRecord({ id: 'headless', head: null, changedAtMs: 12, trashedAtMs: null })
    const listed = await listProjects()
    expect(listed.find(({ id }) => id === 'whole')!.problem).toBeNull()
    for (const id of ['nulls', 'headless'])
      expect(listed.find((line) => line.id === id)!.problem).toMatch(/\w/)
  })

  test('one without a moment of deletion is no deleted one', async () => {
    const head = headOf({ ...demo.project, id: 'undated' })
    await putRecord({ id: 'undated', head, changedAtMs: 13 })
    await emptyTrash(Date.now())
    expect((await listProjects()).map(({ id }) => id)).toContain('undated')
  })

  test('a damaged part is left out and kept aside, and the rest opens', async () => {
    const saved = new Map()
    await saveProject({ ...demo.project, id: 'damaged' }, saved, 14)
    const db = await openDB('unbroken-voice')
    await db.delete('clips', ['damaged', [...saved.keys()][0]])
    db.close()
    const { project, aside } = (await loadProject('damaged'))!
    expect(aside).toMatchObject([{ reason: expect.stringMatching(/notes of the clip .* are missing/) }])
    expect(project.tracks.flatMap((track) => track.clips)).toHaveLength(saved.size - 1)
    await keepAside('damaged', aside, 15)
    expect(await asideOf('damaged')).toEqual(aside)
    // Opened once more, unchanged.
    await keepAside('damaged', structuredClone(aside), 99)
    expect(await asideOf('damaged')).toEqual(aside)
  })
})

describe('saving where somebody else was', () => {
  const mine = { ...demo.project, id: 'shared' }

  test('what another tab has changed or deleted is not written over', async () => {
    const saved = new Map()
    await saveProject(mine, saved, 20)
    await saveProject({ ...mine, name: 'Theirs' }, new Map(), 21)
    const conflict = (expectedAtMs: number) =>
      saveProject({ ...mine, name: 'Mine' }, saved, 22, { expectedAtMs }).then(
        () => null,
        (error: ProjectConflictError) => error.conflict,
      )
    expect(await conflict(20)).toBe('changed')
    expect((await loadProject('shared'))!.project.name).toBe('Theirs')
    await trashProject('shared', 30)
    expect(await conflict(21)).toBe('deleted')
    expect(await loadProject('shared')).toBeNull()
  })

  test('when the data were cleared meanwhile, everything is written again, and that is known', async () => {
    const saved = new Map()
    await saveProject(mine, saved, 40)
    const db = await openDB('unbroken-voice')
    await db.clear('projects')
    await db.clear('clips')
    db.close()
    const { wasGone } = await saveProject({ ...mine, name: 'Again' }, saved, 41, { expectedAtMs: 40 })
    expect(wasGone).toBe(true)
    const again = (await loadProject('shared'))!
    expect(again.aside).toEqual([])
    expect(again.project).toEqual({ ...mine, name: 'Again' })
    expect((await saveProject({ ...mine, name: 'Once more' }, saved, 42, { expectedAtMs: 41 })).wasGone).toBe(
      false,
    )
  })

  test('what could not be read again is not written', async () => {
    await saveProject(mine, new Map(), 50)
    await expect(saveProject({ ...mine, name: 'n'.repeat(201) }, new Map(), 51)).rejects.toThrow(
      'A name can hold up to 200 letters.',
    )
    expect((await loadProject('shared'))!.project.name).toBe(mine.name)
  })
})

describe('the journal', () => {
  test('a finished take is offered until a stored project has it, or it is not wanted', async () => {
    const project = { ...demo.project, id: 'q' }
    const take = { projectId: 'q', startTicks: 0, anchorMs: 0, ...openTake }
    for (const takeSerial of [901, 902, 903]) {
      await journal.begin({ ...take, takeSerial, endMs: null })
      if (takeSerial !== 903) await journal.append('q', takeSerial, 0, demo.events, [])
    }
    await journal.finish({ ...take, takeSerial: 901, endMs: 5000 })
    // 903 holds nothing that anybody played.
    expect(await interruptedRecordings(project)).toEqual([901, 902])
    expect(await recoverRecording(project, 901)).toMatchObject({
      endMs: 5000,
      events: { count: demo.events.count },
    })
    expect(await interruptedRecordings(project)).toEqual([901, 902])
    await journal.file('q', [901])
    await dismissRecording('q', 902)
    expect(await interruptedRecordings(project)).toEqual([])
  })

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
    await journal.append('p', 7, 0, part(0, half), [])
    await journal.append('p', 7, 1, part(half, demo.events.count), [])
    expect(await journal.eventsOf('p', 7)).toEqual(demo.events)
    expect(await journal.takesOf('p')).toMatchObject([{ takeSerial: 7, endMs: null }])
  })

  test('a beginning that is tried again after the end takes nothing back', async () => {
    const take = { projectId: 'late', takeSerial: 1, startTicks: 0, anchorMs: 0, ...openTake }
    await journal.finish({ ...take, endMs: 900 })
    await journal.begin({ ...take, endMs: null })
    expect(await journal.takesOf('late')).toMatchObject([{ endMs: 900 }])
  })

  test('a recording that was cut off comes back as it was played to, whatever the project is by then', async () => {
    const [first, second] = demo.project.tracks
    const address = { portId: 'keys', channel: 3 }
    const playedTo = {
      tempos: [{ tick: 0, tempoBpm: 61 }],
      listeners: [{ trackId: second!.id, routes: second!.routes }],
      compensations: [{ ...address, compensationMs: 12 }],
      chains: [{ ...address, slots: [newSlot('transpose', 'a', { semitones: 5 })], changes: [] }],
    }
    const take = { projectId: 'cut', takeSerial: 950, startTicks: 0, anchorMs: 0, ...openTake, playedTo }
    const points = [
      { timeMs: 0, ticks: 0 },
      { timeMs: 500, ticks: 9000 },
    ]
    await journal.begin({ ...take, endMs: null })
    await journal.append('cut', 950, 0, demo.events, points.slice(0, 1))
    await journal.append('cut', 950, 1, { ...demo.events, count: 0 }, points.slice(1))
    const now = {
      ...demo.project,
      id: 'cut',
      tempos: [{ tick: 0, tempoBpm: 200 }],
      tracks: demo.project.tracks.map((track) => ({ ...track, isArmed: track === first })),
    }
    expect(await recoverRecording(now, 950)).toMatchObject({ playedTo, clockPoints: points })
    // An older program did not keep it: then the piece as it is says so.
    await journal.begin({ ...take, takeSerial: 951, endMs: null, playedTo: null })
    expect((await recoverRecording(now, 951))!.playedTo).toMatchObject({
      tempos: [{ tick: 0, tempoBpm: 200 }],
      listeners: [{ trackId: first!.id }],
    })
  })

  test('a store that could not be opened once is opened at the next use', async () => {
    const db = openAtUse('opened late', 1, () => undefined)
    const open = jest.spyOn(indexedDB, 'open').mockImplementationOnce(() => {
      throw new Error('not now')
    })
    await expect(db.open()).rejects.toThrow('not now')
    expect(db.opened()).toBeNull()
    open.mockRestore()
    expect((await db.open()).name).toBe('opened late')
    expect(db.opened()).not.toBeNull()
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

  test('what could not be stored is refused with a sentence, and nothing is changed', () => {
    const said: string[] = []
    const store = createProjectStore(demo.project, (sentence) => said.push(sentence))
    const tooLong = (project: typeof demo.project) => ({ ...project, name: 'n'.repeat(300) })
    expect(store.getState().apply('rename', tooLong)).toBe(false)
    expect(store.getState().project).toBe(demo.project)
    expect(store.getState().past).toEqual([])
    expect(said).toEqual(['A name can hold up to 200 letters. Nothing was changed.'])
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
