import type { IDBPDatabase, IDBPTransaction } from 'idb'
import { z } from '@/core/border/checks'
import { type ClipContent, type ClipInside, contentOf, headOf } from '@/core/project/content'
import type { Project } from '@/core/project/schema'
import { changesSince } from './clipChanges'
import { changedAt, isTrashed, type ProjectsSchema } from './projectsDatabase'

const keyStart = 'last word of '
/** Letters of a word at most: browsers keep some five million of a site, and settings are among them. */
const mostLetters = 1_500_000
/** At least so many are needed for a note: ten numbers and what is between them. */
const lettersOfNote = 20

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
      content: z
        .object({
          notes: z.object({
            count: z.number().int().min(0),
            times: columnSchema,
            bytes: byteColumnSchema,
            origins: columnSchema,
            lines: byteColumnSchema.optional(),
          }),
          controllers: z.array(z.unknown()),
          manuscript: z.unknown().optional(),
        })
        .transform((content) => content as ClipContent),
    }),
  ),
  goneClipIds: z.array(z.string()),
})

type LastWord = z.infer<typeof wordSchema>

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
  const storage = smallStorage()
  if (!storage) return false
  const { changed, goneClipIds } = changesSince(saved, project)
  // Whoever goes has no time to write out what would not fit.
  if (changed.reduce((sum, { notes }) => sum + notes.length, 0) * lettersOfNote > mostLetters) return false
  const clips = changed.map((clip) => ({ clipId: clip.id, content: contentOf(clip) }))
  const word = { ...when, head: headOf(project), clips, goneClipIds }
  const text = JSON.stringify(word, (_, value) =>
    ArrayBuffer.isView(value) ? [...(value as Int32Array)] : value,
  )
  if (text.length > mostLetters) return false
  try {
    storage.setItem(keyStart + project.id, text)
    return true
  } catch (error) {
    // Full: there is the database still.
    if (!(error instanceof DOMException)) throw error
    return false
  }
}

/** The small storage, where this thread has one and the browser allows it. */
function smallStorage(): Storage | null {
  try {
    return typeof localStorage === 'undefined' ? null : localStorage
  } catch (error) {
    if (!(error instanceof DOMException)) throw error
    return null
  }
}

/** What was left has been stored by the page itself, which has not gone. */
export function takeLastWordBack(projectId: string): void {
  smallStorage()?.removeItem(keyStart + projectId)
}

/**
 * Stores what pages have left when they went. What was stored after all, or changed elsewhere since, is let go; what cannot be read
 * is kept aside. What cannot be stored now, as when storage is full, stays: see `lastWordOf`.
 */
export async function storeLastWords(db: IDBPDatabase<ProjectsSchema>): Promise<void> {
  const storage = smallStorage()
  if (!storage) return
  const keys = Array.from({ length: storage.length }, (_, index) => storage.key(index)!)
  for (const key of keys.filter((each) => each.startsWith(keyStart))) {
    const text = storage.getItem(key)
    if (text === null) continue
    try {
      await storeLastWord(db, key.slice(keyStart.length), text)
    } catch (error) {
      if (!(error instanceof DOMException)) throw error
      continue
    }
    // Not another one that was left meanwhile.
    if (storage.getItem(key) === text) storage.removeItem(key)
  }
}

/** What a page has left of a piece and storage has not taken yet; null where there is nothing. */
export async function lastWordOf(
  db: IDBPDatabase<ProjectsSchema>,
  projectId: string,
): Promise<LastWord | null> {
  const text = smallStorage()?.getItem(keyStart + projectId)
  const word = text ? read(text) : null
  if (!word || 'reason' in word) return null
  return (await isNext(db.transaction(['projects', 'holdings']), projectId, word)) ? word : null
}

function read(text: string): LastWord | { readonly reason: string } {
  try {
    return wordSchema.parse(JSON.parse(text))
  } catch (error) {
    return { reason: `The last change before a page was closed cannot be read: ${(error as Error).message}` }
  }
}

async function storeLastWord(
  db: IDBPDatabase<ProjectsSchema>,
  projectId: string,
  text: string,
): Promise<void> {
  const word = read(text)
  if ('reason' in word) {
    const parts = [{ path: 'last word', reason: word.reason, value: text }]
    await db.put('aside', { projectId, atMs: Date.now(), parts })
    return
  }
  const { changedAtMs, head, clips, goneClipIds } = word
  const transaction = db.transaction(['projects', 'clips', 'holdings'], 'readwrite')
  // It may fail before it is waited for below; then each of its requests says so.
  transaction.done.catch(() => undefined)
  if (await isNext(transaction, projectId, word)) {
    const contents = transaction.objectStore('clips')
    await Promise.all([
      transaction.objectStore('projects').put({ id: projectId, head, changedAtMs, trashedAtMs: null }),
      ...clips.map(({ clipId, content }) => contents.put({ projectId, clipId, content })),
      ...goneClipIds.map((clipId) => contents.delete([projectId, clipId])),
    ])
  }
  await transaction.done
}

/** Whether a word follows what is stored, and nobody has taken the piece since. */
async function isNext(
  transaction: Pick<
    IDBPTransaction<ProjectsSchema, ('projects' | 'clips' | 'holdings')[], IDBTransactionMode>,
    'objectStore'
  >,
  projectId: string,
  { followsAtMs, holding }: LastWord,
): Promise<boolean> {
  const stored = await transaction.objectStore('projects').get(projectId)
  const isTaken =
    holding !== null && (await transaction.objectStore('holdings').count([projectId, holding + 1])) > 0
  if (isTaken) return false
  return stored ? !isTrashed(stored) && followsAtMs.includes(changedAt(stored)) : followsAtMs.length === 0
}
