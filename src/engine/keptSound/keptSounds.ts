import type { DBSchema } from 'idb'
import { isWithin, type KeptOutline, type KeptStretch, longestPieceMs } from '@/core/sound/keptSound'
import { openAtUse } from '../openAtUse'

/** Port and beginning of a piece: two inputs may begin one at the same moment. */
type PieceKey = [projectId: string, portId: string, startMs: number]

interface KeptSoundsSchema extends DBSchema {
  outlines: { key: PieceKey; value: KeptOutline & { readonly projectId: string } }
  /** The sound of each piece, a whole FLAC file. */
  pieces: { key: PieceKey; value: { projectId: string; portId: string; startMs: number; flac: Uint8Array } }
}

const { open } = openAtUse<KeptSoundsSchema>('unbroken-voice-sounds', 1, (db) => {
  const keyPath = ['projectId', 'portId', 'startMs']
  db.createObjectStore('outlines', { keyPath })
  db.createObjectStore('pieces', { keyPath })
})

const ofProject = (projectId: string) =>
  IDBKeyRange.bound(
    [projectId, '', Number.NEGATIVE_INFINITY],
    [projectId, '\uffff', Number.POSITIVE_INFINITY],
  )

/** Whether a piece may reach into a stretch, by its key alone: there are thousands to the hour. */
const mayReach = ([, , startMs]: PieceKey, { fromMs, toMs }: KeptStretch) =>
  startMs + longestPieceMs > fromMs && startMs < toMs

const byTime = (a: KeptOutline, b: KeptOutline) => a.startMs - b.startMs

/** The outlines of some stretches, in order of time; each once. */
async function outlinesIn(
  projectId: string,
  stretches: readonly KeptStretch[],
  portId: string | null,
): Promise<KeptOutline[]> {
  const { store } = (await open()).transaction('outlines')
  const keys = (await store.getAllKeys(ofProject(projectId))).filter(
    (key) => (portId === null || key[1] === portId) && stretches.some((stretch) => mayReach(key, stretch)),
  )
  const found = await Promise.all(keys.map((key) => store.get(key)))
  return found
    .flatMap((stored) => {
      if (!stored) return []
      const { projectId: _id, ...outline } = stored
      return stretches.some((stretch) => isWithin(outline, stretch)) ? [outline] : []
    })
    .sort(byTime)
}

/** Lets go of pieces, outline and sound together. */
async function remove(keys: readonly PieceKey[]): Promise<void> {
  const transaction = (await open()).transaction(['outlines', 'pieces'], 'readwrite')
  await Promise.all([
    ...keys.flatMap((key) => [
      transaction.objectStore('outlines').delete(key),
      transaction.objectStore('pieces').delete(key),
    ]),
    transaction.done,
  ])
}

/** The sound of inputs, in pieces of a second, as they were played: what takes are made of, and what may become one. */
export const keptSounds = {
  /** Stores a piece whole or not at all. */
  async put(projectId: string, outline: KeptOutline, flac: Uint8Array): Promise<void> {
    const transaction = (await open()).transaction(['outlines', 'pieces'], 'readwrite')
    const { portId, startMs } = outline
    await Promise.all([
      transaction.objectStore('outlines').put({ projectId, ...outline }),
      transaction.objectStore('pieces').put({ projectId, portId, startMs, flac }),
      transaction.done,
    ])
  },

  /** What there is of a stretch, in order of time. @param portId null for all inputs */
  outlines: (projectId: string, stretch: KeptStretch, portId: string | null = null): Promise<KeptOutline[]> =>
    outlinesIn(projectId, [stretch], portId),

  async flac(projectId: string, { portId, startMs }: KeptOutline): Promise<Uint8Array | null> {
    return (await (await open()).get('pieces', [projectId, portId, startMs]))?.flac ?? null
  },

  /** What there is of several stretches, with its sound: each piece once. */
  async soundsIn(
    projectId: string,
    stretches: readonly KeptStretch[],
  ): Promise<{ readonly outline: KeptOutline; readonly flac: Uint8Array }[]> {
    const wanted = await outlinesIn(projectId, stretches, null)
    const sounds = await Promise.all(
      wanted.map(async (outline) => ({ outline, flac: await keptSounds.flac(projectId, outline) })),
    )
    return sounds.flatMap(({ outline, flac }) => (flac ? [{ outline, flac }] : []))
  },

  /** How much storage it takes, in bytes. */
  async sizeOf(projectId: string, stretches: readonly KeptStretch[]): Promise<number> {
    const wanted = await outlinesIn(projectId, stretches, null)
    return wanted.reduce((sum, { byteLength }) => sum + byteLength, 0)
  },

  /**
   * Lets go of what nobody will ask for: it is older than a moment, and reaches into none of the stretches.
   *
   * @returns how many pieces went
   */
  async prune(projectId: string, beforeMs: number, stretches: readonly KeptStretch[]): Promise<number> {
    const keys = await (await open()).getAllKeys('outlines', ofProject(projectId))
    const gone = keys.filter(
      (key) => key[2] + longestPieceMs < beforeMs && !stretches.some((stretch) => mayReach(key, stretch)),
    )
    if (gone.length > 0) await remove(gone)
    return gone.length
  },

  /** Lets go of a stretch of one input. */
  async forget(projectId: string, portId: string, stretch: KeptStretch): Promise<void> {
    const gone = await outlinesIn(projectId, [stretch], portId)
    await remove(gone.map(({ startMs }) => [projectId, portId, startMs]))
  },

  async deleteProject(projectId: string): Promise<void> {
    await remove(await (await open()).getAllKeys('outlines', ofProject(projectId)))
  },
}
