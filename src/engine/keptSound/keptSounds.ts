import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import { endMsOf, isWithin, type KeptOutline, type KeptStretch } from '@/core/sound/keptSound'

/** Port and beginning of a piece: two inputs may begin one at the same moment. */
type PieceKey = [projectId: string, portId: string, startMs: number]

interface KeptSoundsSchema extends DBSchema {
  outlines: { key: PieceKey; value: KeptOutline & { readonly projectId: string } }
  /** The sound of each piece, a whole FLAC file. */
  pieces: { key: PieceKey; value: { projectId: string; portId: string; startMs: number; flac: Uint8Array } }
}

let database: Promise<IDBPDatabase<KeptSoundsSchema>> | undefined

function open(): Promise<IDBPDatabase<KeptSoundsSchema>> {
  database ??= openDB<KeptSoundsSchema>('unbroken-voice-sounds', 1, {
    upgrade(db) {
      const keyPath = ['projectId', 'portId', 'startMs']
      db.createObjectStore('outlines', { keyPath })
      db.createObjectStore('pieces', { keyPath })
    },
    blocking() {
      void database?.then((db) => db.close())
      database = undefined
    },
    terminated() {
      database = undefined
    },
  }).catch((error) => {
    database = undefined
    throw error
  })
  return database
}

const ofProject = (projectId: string) =>
  IDBKeyRange.bound(
    [projectId, '', Number.NEGATIVE_INFINITY],
    [projectId, '\uffff', Number.POSITIVE_INFINITY],
  )

const wholeTime: KeptStretch = { fromMs: Number.NEGATIVE_INFINITY, toMs: Number.POSITIVE_INFINITY }

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
  async outlines(
    projectId: string,
    stretch: KeptStretch,
    portId: string | null = null,
  ): Promise<KeptOutline[]> {
    const all = await (await open()).getAll('outlines', ofProject(projectId))
    return all
      .map(({ projectId: _id, ...outline }) => outline)
      .filter((outline) => (portId === null || outline.portId === portId) && isWithin(outline, stretch))
      .sort((a, b) => a.startMs - b.startMs)
  },

  async flac(projectId: string, { portId, startMs }: KeptOutline): Promise<Uint8Array | null> {
    return (await (await open()).get('pieces', [projectId, portId, startMs]))?.flac ?? null
  },

  /** What there is of several stretches, with its sound: each piece once. */
  async soundsIn(
    projectId: string,
    stretches: readonly KeptStretch[],
  ): Promise<{ readonly outline: KeptOutline; readonly flac: Uint8Array }[]> {
    const all = await keptSounds.outlines(projectId, wholeTime)
    const wanted = all.filter((outline) => stretches.some((stretch) => isWithin(outline, stretch)))
    const sounds = await Promise.all(
      wanted.map(async (outline) => ({ outline, flac: await keptSounds.flac(projectId, outline) })),
    )
    return sounds.flatMap(({ outline, flac }) => (flac ? [{ outline, flac }] : []))
  },

  /** How much storage it takes, in bytes. */
  async sizeOf(projectId: string, stretches: readonly KeptStretch[]): Promise<number> {
    const all = await keptSounds.outlines(projectId, wholeTime)
    return all.reduce(
      (sum, outline) => sum + (stretches.some((each) => isWithin(outline, each)) ? outline.byteLength : 0),
      0,
    )
  },

  /**
   * Lets go of what nobody will ask for: it is older than a moment, and outside all stretches.
   *
   * @returns how many pieces went
   */
  async prune(projectId: string, beforeMs: number, stretches: readonly KeptStretch[]): Promise<number> {
    const transaction = (await open()).transaction(['outlines', 'pieces'], 'readwrite')
    const outlines = transaction.objectStore('outlines')
    const all = await outlines.getAll(ofProject(projectId))
    const gone = all.filter(
      (outline) => endMsOf(outline) < beforeMs && !stretches.some((stretch) => isWithin(outline, stretch)),
    )
    await Promise.all([
      ...gone.flatMap(({ portId, startMs }) => [
        outlines.delete([projectId, portId, startMs]),
        transaction.objectStore('pieces').delete([projectId, portId, startMs]),
      ]),
      transaction.done,
    ])
    return gone.length
  },

  /** Lets go of a stretch of one input. */
  async forget(projectId: string, portId: string, stretch: KeptStretch): Promise<void> {
    const gone = await keptSounds.outlines(projectId, stretch, portId)
    const transaction = (await open()).transaction(['outlines', 'pieces'], 'readwrite')
    await Promise.all([
      ...gone.flatMap(({ startMs }) => [
        transaction.objectStore('outlines').delete([projectId, portId, startMs]),
        transaction.objectStore('pieces').delete([projectId, portId, startMs]),
      ]),
      transaction.done,
    ])
  },

  async deleteProject(projectId: string): Promise<void> {
    const transaction = (await open()).transaction(['outlines', 'pieces'], 'readwrite')
    await Promise.all([
      transaction.objectStore('outlines').delete(ofProject(projectId)),
      transaction.objectStore('pieces').delete(ofProject(projectId)),
      transaction.done,
    ])
  },
}
