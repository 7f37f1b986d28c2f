import type { IDBPObjectStore } from 'idb'
import { stretchOf } from '@/core/capture/takeInfo'
import {
  type ClipInside,
  contentOf,
  headOf,
  joinProject,
  type ReadProject,
  readClipContent,
} from '@/core/project/content'
import { misfit } from '@/core/project/fit'
import { ProjectFormatError, readProjectHead } from '@/core/project/migrate'
import type { AsidePart } from '@/core/project/salvage'
import type { Project } from '@/core/project/schema'
import { boundedName, nameWith } from '@/core/text/bounded'
import { journal } from '@/engine/journal/journal'
import { keptSounds } from '@/engine/keptSound/keptSounds'
import { assetsOf, deleteAssetsOf, putAsset } from './assets'
import { changesSince } from './clipChanges'
import { lastWordOf, storeLastWords } from './lastWord'
import {
  changedAt,
  clipsOf,
  isTrashed,
  open,
  opened,
  type ProjectsSchema,
  type StoredProject,
} from './projectsDatabase'

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

export async function listProjects(): Promise<ProjectSummary[]> {
  const db = await open()
  await storeLastWords(db)
  const stored = await db.getAll('projects')
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
  /** Not where a page has left its last change and storage does not take it yet: it is in the project, and still to be stored. */
  readonly isStored: boolean
}

/** @throws ProjectFormatError when what is stored cannot be read at all */
export async function loadProject(id: string): Promise<LoadedProject | null> {
  const db = await open()
  await storeLastWords(db)
  const stored = await db.get('projects', id)
  if (!stored || isTrashed(stored)) return null
  const word = await lastWordOf(db, id)
  const contents = [...(await db.getAll('clips', clipsOf(id))), ...(word?.clips ?? [])]
  const clips = new Map(contents.map(({ clipId, content }) => [clipId, content]))
  const read = joinProject(readProjectHead((word ?? stored).head), (clipId, name) => {
    const content = clips.get(clipId)
    if (!content) throw new ProjectFormatError(`The notes of the clip "${name}" are missing`)
    return readClipContent(name, content)
  })
  return { ...read, changedAtMs: changedAt(stored), isStored: !word }
}

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
  const found = parts.filter((part) => {
    const text = JSON.stringify(part)
    const isNew = !known.has(text)
    known.add(text)
    return isNew
  })
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

  /** `taken`: another tab has it now, and this one may not write it any more. */
  constructor(readonly conflict: 'deleted' | 'changed' | 'taken') {
    super(`The project was ${conflict} elsewhere`)
  }
}

const numbersOf = (projectId: string) =>
  IDBKeyRange.bound([projectId, 0], [projectId, Number.MAX_SAFE_INTEGER])

/**
 * Takes a project: from now on whoever took it before writes it no more, also if it slept through this.
 *
 * @returns the number of the taking, to be shown with everything that is written
 */
export async function takeHolding(projectId: string): Promise<number> {
  const transaction = (await open()).transaction('holdings', 'readwrite')
  const numbers = await transaction.store.getAllKeys(numbersOf(projectId))
  const number = (numbers.at(-1)?.[1] ?? 0) + 1
  await Promise.all([transaction.store.add({ projectId, number }), transaction.done])
  return number
}

/** Whether nobody has taken it since. */
export async function isHolding(projectId: string, number: number): Promise<boolean> {
  return (await (await open()).count('holdings', [projectId, number + 1])) === 0
}

export interface SaveOptions {
  /** When the record was written that is expected there; undefined: whatever is there is written over. */
  readonly expectedAtMs?: number
  /** Of whoever writes; undefined where nobody else can have it. */
  readonly holding?: number
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
 * @throws ProjectConflictError where another tab has deleted, changed or taken it
 * @throws RangeError with a sentence where the project could not be read again; nothing is written then
 */
export async function saveProject(
  project: Project,
  saved: Map<string, ClipInside>,
  nowMs: number,
  { expectedAtMs, holding, isLeaving = false, lastSaved = null }: SaveOptions = {},
): Promise<{ readonly wasGone: boolean }> {
  const problem = misfit(project, lastSaved)
  if (problem) throw new RangeError(problem)
  const db = (isLeaving && opened()) || (await open())
  const transaction = db.transaction(['projects', 'clips', 'holdings'], 'readwrite')
  // It may fail before anybody below waits for it; then each of its requests says so.
  transaction.done.catch(() => undefined)
  const proof =
    holding === undefined ? null : proveHolding(transaction.objectStore('holdings'), project.id, holding)
  const store = transaction.objectStore('clips')
  const projects = transaction.objectStore('projects')
  let wasGone = false
  const taken = async () => {
    await transaction.done.catch(() => undefined)
    return new ProjectConflictError('taken')
  }
  if (!isLeaving && (await proof) === false) throw await taken()
  if (expectedAtMs !== undefined && !isLeaving) {
    const [stored, keys] = await Promise.all([
      projects.get(project.id),
      store.getAllKeys(clipsOf(project.id)),
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
  const { changed, goneClipIds } = changesSince(saved, project)
  const work = [
    projects.put({ id: project.id, head: headOf(project), changedAtMs: nowMs, trashedAtMs: null }),
    ...changed.map((clip) => store.put({ projectId: project.id, clipId: clip.id, content: contentOf(clip) })),
    ...goneClipIds.map((clipId) => store.delete([project.id, clipId])),
    transaction.done,
  ]
  if (isLeaving) transaction.commit()
  const written = await Promise.allSettled(work)
  if ((await proof) === false) throw await taken()
  const failed = written.find((each) => each.status === 'rejected')
  if (failed) throw failed.reason
  for (const { id, notes, controllers, manuscript } of changed)
    saved.set(id, { notes, controllers, manuscript })
  for (const clipId of goneClipIds) saved.delete(clipId)
  return { wasGone }
}

/**
 * Within a transaction: everything in it fails where a later taking is there. It asks nothing and waits for no answer, so that it
 * works in a page that is going: the next number is put there and taken away again, and where it is there already, the store refuses.
 *
 * @returns whether nobody has taken it since
 */
async function proveHolding(
  store: IDBPObjectStore<ProjectsSchema, ('projects' | 'clips' | 'holdings')[], 'holdings', 'readwrite'>,
  projectId: string,
  holding: number,
): Promise<boolean> {
  const next = { projectId, number: holding + 1 }
  const [added] = await Promise.allSettled([store.add(next), store.delete([projectId, next.number])])
  return !(added.status === 'rejected' && added.reason?.name === 'ConstraintError')
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
  await takeHolding(id)
  await saveProject(
    { ...project, name: boundedName(name) },
    new Map(project.tracks.flatMap((track) => track.clips.map((clip) => [clip.id, clip]))),
    Date.now(),
    { expectedAtMs: changedAtMs },
  )
}

/** A copy under a new id, with its takes, its files, the sound of its takes and what was set aside of it. */
export async function duplicateProject(id: string, newId: string, nowMs: number): Promise<void> {
  const loaded = await loadProject(id)
  if (!loaded) return
  const { project, aside } = loaded
  await keepAside(newId, [...(await asideOf(id)), ...aside], nowMs)
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
    await db.delete('clips', clipsOf(project.id))
    await db.delete('aside', numbersOf(project.id))
    await db.delete('holdings', numbersOf(project.id))
    await journal.deleteProject(project.id)
    await deleteAssetsOf(project.id)
    await keptSounds.deleteProject(project.id)
  }
}
