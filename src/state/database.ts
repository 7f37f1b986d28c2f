import type { DBSchema } from 'idb'
import { stretchOf } from '@/core/capture/takeInfo'
import {
  type ClipContent,
  contentOf,
  headOf,
  joinProject,
  type ReadProject,
  readClipContent,
} from '@/core/project/content'
import { misfit } from '@/core/project/fit'
import { ProjectFormatError, readProjectHead } from '@/core/project/migrate'
import type { AsidePart } from '@/core/project/salvage'
import type { Clip, Project } from '@/core/project/schema'
import { boundedName, nameWith } from '@/core/text/bounded'
import { journal } from '@/engine/journal/journal'
import { keptSounds } from '@/engine/keptSound/keptSounds'
import { openAtUse } from '@/engine/openAtUse'
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
  /** Damaged parts that were left out when a project was opened. */
  aside: {
    key: [string, number]
    value: { projectId: string; atMs: number; parts: readonly AsidePart[] }
  }
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

const { open, opened } = openAtUse<ProjectsSchema>('unbroken-voice', 2, (db, oldVersion) => {
  if (oldVersion < 1) {
    db.createObjectStore('projects', { keyPath: 'id' })
    db.createObjectStore('clips', { keyPath: ['projectId', 'clipId'] })
  }
  db.createObjectStore('aside', { keyPath: ['projectId', 'atMs'] })
})

/** Only a moment of deletion makes a project a deleted one; a record without that field is none. */
function isTrashed({ trashedAtMs }: StoredProject): boolean {
  return typeof trashedAtMs === 'number'
}

const changedAt = ({ changedAtMs }: StoredProject) => (typeof changedAtMs === 'number' ? changedAtMs : 0)

export async function listProjects(): Promise<ProjectSummary[]> {
  const stored = await (await open()).getAll('projects')
  return stored
    .filter((project) => !isTrashed(project))
    .sort((a, b) => changedAt(b) - changedAt(a))
    .map(summaryOf)
}

/** One record that cannot be read, whatever is wrong with it, is a line of the list like the others. */
function summaryOf(stored: StoredProject): ProjectSummary {
  const { id } = stored
  const changedAtMs = changedAt(stored)
  try {
    const { head, aside } = readProjectHead(stored.head)
    const { name, subtitle, tracks, takes } = head
    const damaged = aside.length === 0 ? '' : `${aside.length} parts damaged`
    return {
      id,
      name,
      subtitle: [subtitle, damaged].filter((words) => words !== '').join(' · '),
      trackCount: tracks.length,
      takeCount: takes.length,
      changedAtMs,
      problem: null,
    }
  } catch (error) {
    const problem = error instanceof Error ? error.message : String(error)
    return { id, name: id, subtitle: '', trackCount: 0, takeCount: 0, changedAtMs, problem }
  }
}

/** A project out of storage, and when that record was written. */
export interface LoadedProject extends ReadProject {
  readonly changedAtMs: number
}

/** @throws ProjectFormatError when what is stored cannot be read at all */
export async function loadProject(id: string): Promise<LoadedProject | null> {
  const db = await open()
  const stored = await db.get('projects', id)
  if (!stored || isTrashed(stored)) return null
  const clips = new Map((await db.getAll('clips', rangeOf(id))).map((clip) => [clip.clipId, clip.content]))
  const read = joinProject(readProjectHead(stored.head), (clipId, name) => {
    const content = clips.get(clipId)
    if (!content) throw new ProjectFormatError(`The notes of the clip "${name}" are missing`)
    return readClipContent(name, content)
  })
  return { ...read, changedAtMs: changedAt(stored) }
}

const rangeOf = (projectId: string) => IDBKeyRange.bound([projectId, ''], [projectId, '\uffff'])

/**
 * Keeps what could not be read, so that nothing is lost when the project is written again. What is there already, as when
 * the project was opened before and not changed since, is kept once.
 */
export async function keepAside(
  projectId: string,
  parts: readonly AsidePart[],
  nowMs: number,
): Promise<void> {
  const known = new Set((await asideOf(projectId)).map((part) => JSON.stringify(part)))
  const found = parts.filter((part) => !known.has(JSON.stringify(part)))
  if (found.length > 0) await (await open()).put('aside', { projectId, atMs: nowMs, parts: found })
}

/** What was kept aside of a project, the latest last. */
export async function asideOf(projectId: string): Promise<AsidePart[]> {
  const range = IDBKeyRange.bound([projectId, 0], [projectId, Number.MAX_SAFE_INTEGER])
  return (await (await open()).getAll('aside', range)).flatMap(({ parts }) => parts)
}

/** The stored record is not the one that was read or written here last: somebody else was at it. */
export class ProjectConflictError extends Error {
  override name = 'ProjectConflictError'

  constructor(readonly conflict: 'deleted' | 'changed') {
    super(`The project was ${conflict} elsewhere`)
  }
}

export interface SaveOptions {
  /** When the record was written that is expected there; undefined: whatever is there is written over. */
  readonly expectedAtMs?: number
  /** The page is going: what there is to write is handed over at once, without looking first. */
  readonly isLeaving?: boolean
  /** What was written last: only what differs from it is checked. */
  readonly lastSaved?: Project | null
}

/**
 * Writes a project: its head, and those clips whose inside has changed or is no longer there.
 *
 * @param saved what was written last, by clip id; brought up to date
 * @returns whether what had been stored was gone, as when the browser's data were cleared
 * @throws ProjectConflictError where another tab has deleted or changed it
 * @throws RangeError with a sentence where the project could not be read again; nothing is written then
 */
export async function saveProject(
  project: Project,
  saved: Map<string, Pick<Clip, 'notes' | 'controllers'>>,
  nowMs: number,
  { expectedAtMs, isLeaving = false, lastSaved = null }: SaveOptions = {},
): Promise<{ readonly wasGone: boolean }> {
  const problem = misfit(project, lastSaved)
  if (problem) throw new RangeError(problem)
  const clips = project.tracks.flatMap((track) => track.clips)
  const alive = new Set(clips.map((clip) => clip.id))
  const db = (isLeaving && opened()) || (await open())
  const transaction = db.transaction(['projects', 'clips'], 'readwrite')
  const store = transaction.objectStore('clips')
  const projects = transaction.objectStore('projects')
  let wasGone = false
  if (expectedAtMs !== undefined && !isLeaving) {
    const [stored, keys] = await Promise.all([
      projects.get(project.id),
      store.getAllKeys(rangeOf(project.id)),
    ])
    const there = new Set(keys.map(([, clipId]) => clipId))
    const missing = [...saved.keys()].filter((clipId) => !there.has(clipId))
    for (const clipId of missing) saved.delete(clipId)
    wasGone = !stored || missing.length > 0
    const conflict = !stored
      ? null
      : isTrashed(stored)
        ? 'deleted'
        : changedAt(stored) !== expectedAtMs
          ? 'changed'
          : null
    if (conflict) {
      transaction.abort()
      await transaction.done.catch(() => undefined)
      throw new ProjectConflictError(conflict)
    }
  }
  const changed = clips.filter((clip) => {
    const last = saved.get(clip.id)
    return !last || last.notes !== clip.notes || last.controllers !== clip.controllers
  })
  const gone = [...saved.keys()].filter((clipId) => !alive.has(clipId))
  const work = [
    projects.put({ id: project.id, head: headOf(project), changedAtMs: nowMs, trashedAtMs: null }),
    ...changed.map((clip) => store.put({ projectId: project.id, clipId: clip.id, content: contentOf(clip) })),
    ...gone.map((clipId) => store.delete([project.id, clipId])),
    transaction.done,
  ]
  if (isLeaving) transaction.commit()
  await Promise.all(work)
  for (const clip of changed) saved.set(clip.id, { notes: clip.notes, controllers: clip.controllers })
  for (const clipId of gone) saved.delete(clipId)
  return { wasGone }
}

export async function trashProject(id: string, nowMs: number | null): Promise<void> {
  const db = await open()
  const stored = await db.get('projects', id)
  if (stored) await db.put('projects', { ...stored, trashedAtMs: nowMs })
}

export async function renameProject(id: string, name: string): Promise<void> {
  const loaded = await loadProject(id)
  if (!loaded) return
  const { project, aside, changedAtMs } = loaded
  if (aside.length > 0) await keepAside(id, aside, Date.now())
  await saveProject(
    { ...project, name: boundedName(name) },
    new Map(project.tracks.flatMap((track) => track.clips.map((clip) => [clip.id, clip]))),
    Date.now(),
    { expectedAtMs: changedAtMs },
  )
}

/** A copy under a new id, with its takes. */
export async function duplicateProject(id: string, newId: string, nowMs: number): Promise<void> {
  const loaded = await loadProject(id)
  if (!loaded) return
  const { project } = loaded
  await saveProject(
    { ...project, id: newId, name: nameWith(project.name, ' copy'), createdAtMs: nowMs },
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
  for (const { outline, flac } of await keptSounds.soundsIn(id, project.takes.map(stretchOf)))
    await keptSounds.put(newId, outline, flac)
}

/** Removes for good what was deleted long ago. */
export async function emptyTrash(nowMs: number): Promise<void> {
  const db = await open()
  for (const project of await db.getAll('projects')) {
    if (!isTrashed(project) || nowMs - project.trashedAtMs! < trashMs) continue
    await db.delete('projects', project.id)
    await db.delete('clips', rangeOf(project.id))
    await db.delete('aside', IDBKeyRange.bound([project.id, 0], [project.id, Number.MAX_SAFE_INTEGER]))
    await journal.deleteProject(project.id)
    await deleteAssetsOf(project.id)
    await keptSounds.deleteProject(project.id)
  }
}
