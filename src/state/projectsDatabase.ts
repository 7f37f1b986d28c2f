import type { DBSchema } from 'idb'
import type { ClipContent } from '@/core/project/content'
import type { AsidePart } from '@/core/project/salvage'
import { openAtUse } from '@/engine/openAtUse'

/** The head of a project, in a record of its own. */
export interface StoredProject {
  readonly id: string
  /** As written by some version of the program: read through `readProjectHead`. */
  readonly head: unknown
  readonly changedAtMs: number
  /** Deleted, but still there for undo. */
  readonly trashedAtMs: number | null
}

/** The database of projects: their heads, the insides of their clips, and what was left out of them. */
export interface ProjectsSchema extends DBSchema {
  projects: { key: string; value: StoredProject }
  clips: { key: [string, string]; value: { projectId: string; clipId: string; content: ClipContent } }
  /** Damaged parts that were left out when a project was opened. */
  aside: {
    key: [string, number]
    value: { projectId: string; atMs: number; parts: readonly AsidePart[] }
  }
  /** Each taking of a project by a tab has a number of its own, one higher than the one before. */
  holdings: { key: [string, number]; value: { projectId: string; number: number } }
}

export const { open, opened } = openAtUse<ProjectsSchema>('unbroken-voice', 3, (db, oldVersion) => {
  if (oldVersion < 1) {
    db.createObjectStore('projects', { keyPath: 'id' })
    db.createObjectStore('clips', { keyPath: ['projectId', 'clipId'] })
  }
  if (oldVersion < 2) db.createObjectStore('aside', { keyPath: ['projectId', 'atMs'] })
  if (oldVersion < 3) db.createObjectStore('holdings', { keyPath: ['projectId', 'number'] })
})

/** Only a moment of deletion makes a project a deleted one; a record without that field is none. */
export function isTrashed({ trashedAtMs }: StoredProject): boolean {
  return typeof trashedAtMs === 'number'
}

/** When a record was written. */
export const changedAt = ({ changedAtMs }: StoredProject) =>
  typeof changedAtMs === 'number' ? changedAtMs : 0

/** The keys of all clips of a project. */
export const clipsOf = (projectId: string) => IDBKeyRange.bound([projectId, ''], [projectId, '\uffff'])
