import type { DBSchema } from 'idb'
import { openAtUse } from '@/engine/openAtUse'

/** Files that were brought into a project and are kept with it: backing tracks, files that play. */
interface AssetsSchema extends DBSchema {
  assets: { key: [string, string]; value: { projectId: string; assetId: string; bytes: Uint8Array } }
}

const { open } = openAtUse<AssetsSchema>('unbroken-voice-assets', 1, (db) => {
  db.createObjectStore('assets', { keyPath: ['projectId', 'assetId'] })
})

export async function putAsset(projectId: string, assetId: string, bytes: Uint8Array): Promise<void> {
  await (await open()).put('assets', { projectId, assetId, bytes })
}

export async function getAsset(projectId: string, assetId: string): Promise<Uint8Array | null> {
  return (await (await open()).get('assets', [projectId, assetId]))?.bytes ?? null
}

/** The bytes of every file of a project. */
export async function assetsOf(
  projectId: string,
  ids: readonly string[],
): Promise<{ readonly assetId: string; readonly bytes: Uint8Array }[]> {
  const found = await Promise.all(
    ids.map(async (assetId) => ({ assetId, bytes: await getAsset(projectId, assetId) })),
  )
  return found.flatMap(({ assetId, bytes }) => (bytes ? [{ assetId, bytes }] : []))
}

export async function deleteAssetsOf(projectId: string): Promise<void> {
  await (await open()).delete('assets', IDBKeyRange.bound([projectId, ''], [projectId, '\uffff']))
}
