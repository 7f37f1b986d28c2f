import 'fake-indexeddb/auto'
import { readFileSync } from 'node:fs'
import { strFromU8, unzipSync } from 'fflate'
import { openDB } from 'idb'
import { readProjectFile } from '@/core/formats/projectFile'
import { contentOf } from '@/core/project/content'
import { soundingNotes } from '@/core/project/create'
import type { listProjects, loadProject, saveProject } from './database'

const file = readFileSync('tests/stored/form-01.voice')
const { project } = readProjectFile(file)
/** As the program of that day stored it. */
const head: unknown = JSON.parse(strFromU8(unzipSync(file)['project.json']!))

/** The database as versions 1 and 2 of the program laid it out, with a piece in it. */
async function olderDatabase(version: 1 | 2): Promise<void> {
  const db = await openDB('unbroken-voice', version, {
    upgrade(db) {
      db.createObjectStore('projects', { keyPath: 'id' })
      db.createObjectStore('clips', { keyPath: ['projectId', 'clipId'] })
      if (version === 2) db.createObjectStore('aside', { keyPath: ['projectId', 'atMs'] })
    },
  })
  await db.put('projects', { id: project.id, head, changedAtMs: 5, trashedAtMs: null })
  for (const clip of project.tracks.flatMap(({ clips }) => clips))
    await db.put('clips', { projectId: project.id, clipId: clip.id, content: contentOf(clip) })
  if (version === 2) await db.put('aside', { projectId: project.id, atMs: 3, parts: [] })
  db.close()
}

test.each([1, 2] as const)(
  'a database of version %i: its piece is listed, opened and stored again',
  async (version) => {
    Object.assign(globalThis, { indexedDB: new IDBFactory() })
    await olderDatabase(version)
    await jest.isolateModulesAsync(async () => {
      const database = (await import('./database')) as {
        listProjects: typeof listProjects
        loadProject: typeof loadProject
        saveProject: typeof saveProject
      }
      expect(await database.listProjects()).toMatchObject([
        { id: project.id, name: 'Lamps, form 1', problem: null },
      ])
      const loaded = (await database.loadProject(project.id))!
      expect(loaded.aside).toEqual([])
      expect(loaded.project.tracks.map((track) => soundingNotes(track).length)).toEqual(
        project.tracks.map((track) => soundingNotes(track).length),
      )
      await database.saveProject({ ...loaded.project, name: 'Lamps again' }, new Map(), 9)
      expect(await database.listProjects()).toMatchObject([{ name: 'Lamps again', changedAtMs: 9 }])
    })
  },
)
