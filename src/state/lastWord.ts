import type { IDBPDatabase } from 'idb'
import { z } from '@/core/border/checks'
import { type ClipContent, type ClipInside, contentOf, headOf } from '@/core/project/content'
import type { Project } from '@/core/project/schema'
import { changesSince } from './clipChanges'
import { changedAt, isTrashed, type ProjectsSchema } from './projectsDatabase'

const keyStart = 'last word of '
/** Letters of a word at most: browsers keep some five million of a site, and settings are among them. */
const mostLetters = 1_500_000

const numbersSchema = z.array(z.number().int())
const columnSchema = numbersSchema.transform((values) => Int32Array.from(values))
const byteColumnSchema = numbersSchema.transform((values) => Uint8Array.from(values))

/** The form of a word. What is in the head and in the clips is checked with the rest of the piece, when it is opened. */
const wordSchema = z.object({
  changedAtMs: z.number(),
  followsAtMs: z.array(z.number()),
  holding: z.number().nullable(),
  head: z.unknown(),
  clips: z.array(
    z.object({
      clipId: z.string(),
      content: z.object({
        notes: z.object({
          count: z.number().int().min(0),
          times: columnSchema,
          bytes: byteColumnSchema,
          origins: columnSchema,
          lines: byteColumnSchema.optional(),
        }),
        controllers: z.custom<ClipContent['controllers']>(Array.isArray),
        manuscript: z.custom<NonNullable<ClipContent['manuscript']>>().optional(),
      }),
    }),
  ),
  goneClipIds: z.array(z.string()),
})

export interface WordOfPage {
  readonly project: Project
  /** What is stored of its clips, by clip id. */
  readonly saved: ReadonlyMap<string, ClipInside>
  /** The moment it is stored under. */
  readonly changedAtMs: number
  /** The record it follows: the one that was stored last, or one that is on its way. None where nothing is stored yet. */
  readonly followsAtMs: readonly number[]
  /** The number under which the page has the project, as far as it is known. */
  readonly holding: number | null
}

/**
 * What a page that goes has still to store, left where the next page finds it. A database may let go of what a closed page has
 * handed over and not seen through; what is put into the page's small storage (Web Storage, WHATWG HTML) in that moment is there.
 *
 * @returns whether there was room for it
 */
export function leaveLastWord({ project, saved, ...when }: WordOfPage): boolean {
  if (typeof localStorage === 'undefined') return false
  const { changed, goneClipIds } = changesSince(saved, project)
  const clips = changed.map((clip) => ({ clipId: clip.id, content: contentOf(clip) }))
  const word = { ...when, head: headOf(project), clips, goneClipIds }
  const text = JSON.stringify(word, (_, value) =>
    ArrayBuffer.isView(value) ? [...(value as Int32Array)] : value,
  )
  if (text.length > mostLetters) return false
  try {
    localStorage.setItem(keyStart + project.id, text)
    return true
  } catch (error) {
    if ((error as DOMException).name !== 'QuotaExceededError') throw error
    return false
  }
}

/** What was left has been stored by the page itself, which has not gone. */
export function takeLastWordBack(projectId: string): void {
  if (typeof localStorage !== 'undefined') localStorage.removeItem(keyStart + projectId)
}

/**
 * Stores what pages have left when they went. What was stored after all, or changed elsewhere since, is let go; what cannot be read
 * is kept aside.
 */
export async function storeLastWords(db: IDBPDatabase<ProjectsSchema>): Promise<void> {
  if (typeof localStorage === 'undefined') return
  const keys = Array.from({ length: localStorage.length }, (_, index) => localStorage.key(index)!)
  for (const key of keys.filter((each) => each.startsWith(keyStart))) {
    const text = localStorage.getItem(key)
    if (text === null) continue
    const projectId = key.slice(keyStart.length)
    const word = read(text)
    if ('reason' in word) {
      const parts = [{ path: 'last word', reason: word.reason, value: text }]
      await db.put('aside', { projectId, atMs: Date.now(), parts })
    } else await storeLastWord(db, projectId, word)
    localStorage.removeItem(key)
  }
}

function read(text: string): z.infer<typeof wordSchema> | { readonly reason: string } {
  try {
    return wordSchema.parse(JSON.parse(text))
  } catch (error) {
    return { reason: `The last change before a page was closed cannot be read: ${(error as Error).message}` }
  }
}

async function storeLastWord(
  db: IDBPDatabase<ProjectsSchema>,
  projectId: string,
  { changedAtMs, followsAtMs, holding, head, clips, goneClipIds }: z.infer<typeof wordSchema>,
): Promise<void> {
  const transaction = db.transaction(['projects', 'clips', 'holdings'], 'readwrite')
  const stored = await transaction.objectStore('projects').get(projectId)
  const isFollowing = stored
    ? !isTrashed(stored) && followsAtMs.includes(changedAt(stored))
    : followsAtMs.length === 0
  const isTaken =
    holding !== null && (await transaction.objectStore('holdings').count([projectId, holding + 1])) > 0
  if (isFollowing && !isTaken) {
    await transaction.objectStore('projects').put({ id: projectId, head, changedAtMs, trashedAtMs: null })
    for (const { clipId, content } of clips) {
      const { notes, controllers, manuscript } = content
      const { lines, ...columns } = notes
      await transaction.objectStore('clips').put({
        projectId,
        clipId,
        content: {
          notes: { ...columns, ...(lines && { lines }) },
          controllers,
          ...(manuscript && { manuscript }),
        },
      })
    }
    for (const clipId of goneClipIds) await transaction.objectStore('clips').delete([projectId, clipId])
  }
  await transaction.done
}
