import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import { type ClipContent, contentOf, headOf, joinProject, readClipContent } from '@/core/project/content'
import { ProjectFormatError, readProjectHead } from '@/core/project/migrate'
import type { Clip, Project } from '@/core/project/schema'
import { journal } from '@/engine/journal/journal'
import { assetsOf, deleteAssetsOf, putAsset } from './assets'

interface StoredProject {
  readonly id: string
  /** As written by some version of the program: read through `readProjectHead`. */
  readonly head: unknown
  readonly changedAtMs: number
  /** Deleted, but still there for undo. */
  readonly trashedAtMs: number | null
}

interface ProjectsSchema extends DBSchema {
  projects: { key: string; value: StoredProject }
  clips: { key: [string, string]; value: { projectId: string; clipId: string; content: ClipContent } }
}

/** A line of the list of projects. */
export interface ProjectSummary {
  readonly id: string
  readonly name: string
  readonly subtitle: string
  readonly trackCount: number
  readonly takeCount: number
  readonly changedAtMs: number
  /** Why it cannot be opened; null when it can. */
  readonly problem: string | null
}

/** Deleted projects are kept this long. */
const trashMs = 7 * 24 * 3600 * 1000

let database: Promise<IDBPDatabase<ProjectsSchema>> | undefined

function open(): Promise<IDBPDatabase<ProjectsSchema>> {
  database ??= openDB<ProjectsSchema>('unbroken-voice', 1, {
    upgrade(db) {
      db.createObjectStore('projects', { keyPath: 'id' })
      db.createObjectStore('clips', { keyPath: ['projectId', 'clipId'] })
    },
    terminated() {
      database = undefined
    },
  })
  return database
}

export async function listProjects(): Promise<ProjectSummary[]> {
  const stored = await (await open()).getAll('projects')
  return stored
    .filter((project) => project.trashedAtMs === null)
    .sort((a, b) => b.changedAtMs - a.changedAtMs)
    .map(summaryOf)
}

function summaryOf({ id, head, changedAtMs }: StoredProject): ProjectSummary {
  try {
    const { name, subtitle, tracks, takes } = readProjectHead(head)
    return {
      id,
      name,
      subtitle,
      trackCount: tracks.length,
      takeCount: takes.length,
      changedAtMs,
      problem: null,
    }
  } catch (error) {
    if (!(error instanceof ProjectFormatError)) throw error
    return { id, name: id, subtitle: '', trackCount: 0, takeCount: 0, changedAtMs, problem: error.message }
  }
}

/** @throws ProjectFormatError when what is stored cannot be read */
export async function loadProject(id: string): Promise<Project | null> {
  const db = await open()
  const stored = await db.get('projects', id)
  if (!stored || stored.trashedAtMs !== null) return null
  const head = readProjectHead(stored.head)
  const range = IDBKeyRange.bound([id, ''], [id, '\uffff'])
  const clips = new Map((await db.getAll('clips', range)).map((clip) => [clip.clipId, clip.content]))
  return joinProject(head, (clipId, name) => {
    const content = clips.get(clipId)
    if (!content) throw new ProjectFormatError(`The notes of the clip "${name}" are missing`)
    return readClipContent(name, content)
  })
}

/**
 * Writes a project: its head, and those clips whose inside has changed.
 *
 * @param saved what was written last, by clip id; brought up to date
 */
export async function saveProject(
  project: Project,
  saved: Map<string, Pick<Clip, 'notes' | 'controllers'>>,
  nowMs: number,
): Promise<void> {
  const clips = project.tracks.flatMap((track) => track.clips)
  const changed = clips.filter((clip) => {
    const last = saved.get(clip.id)
    return !last || last.notes !== clip.notes || last.controllers !== clip.controllers
  })
  const alive = new Set(clips.map((clip) => clip.id))
  const gone = [...saved.keys()].filter((clipId) => !alive.has(clipId))
  const transaction = (await open()).transaction(['projects', 'clips'], 'readwrite')
  const store = transaction.objectStore('clips')
  await Promise.all([
    transaction
      .objectStore('projects')
      .put({ id: project.id, head: headOf(project), changedAtMs: nowMs, trashedAtMs: null }),
    ...changed.map((clip) => store.put({ projectId: project.id, clipId: clip.id, content: contentOf(clip) })),
    ...gone.map((clipId) => store.delete([project.id, clipId])),
    transaction.done,
  ])
  for (const clip of changed) saved.set(clip.id, { notes: clip.notes, controllers: clip.controllers })
  for (const clipId of gone) saved.delete(clipId)
}

export async function trashProject(id: string, nowMs: number | null): Promise<void> {
  const db = await open()
  const stored = await db.get('projects', id)
  if (stored) await db.put('projects', { ...stored, trashedAtMs: nowMs })
}

export async function renameProject(id: string, name: string): Promise<void> {
  const project = await loadProject(id)
  if (project)
    await saveProject(
      { ...project, name },
      new Map(project.tracks.flatMap((track) => track.clips.map((clip) => [clip.id, clip]))),
      Date.now(),
    )
}

/** A copy under a new id, with its takes. */
export async function duplicateProject(id: string, newId: string, nowMs: number): Promise<void> {
  const project = await loadProject(id)
  if (!project) return
  await saveProject(
    { ...project, id: newId, name: `${project.name} copy`, createdAtMs: nowMs },
    new Map(),
    nowMs,
  )
  for (const asset of await assetsOf(
    id,
    project.assets.map((each) => each.id),
  ))
    await putAsset(newId, asset.assetId, asset.bytes)
  for (const take of await journal.takesOf(id))
    await journal.put({ ...take, projectId: newId }, await journal.eventsOf(id, take.takeSerial))
}

/** Removes for good what was deleted long ago. */
export async function emptyTrash(nowMs: number): Promise<void> {
  const db = await open()
  for (const project of await db.getAll('projects')) {
    if (project.trashedAtMs === null || nowMs - project.trashedAtMs < trashMs) continue
    await db.delete('projects', project.id)
    await db.delete('clips', IDBKeyRange.bound([project.id, ''], [project.id, '\uffff']))
    await journal.deleteProject(project.id)
    await deleteAssetsOf(project.id)
  }
}
