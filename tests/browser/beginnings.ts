import type { BrowserContext, Page } from '@playwright/test'

/** What tests begin with, so that the pressing that leads there is done once for all tests of a browser. */
export type Beginning = 'demo' | 'newPiece'

/** Everything the browser has stored, in the memory of a page. */
type KeepingWindow = typeof globalThis & { kept: Record<string, readonly KeptDatabase[]> }

interface KeptDatabase {
  readonly name: string
  readonly version: number
  readonly stores: readonly {
    readonly name: string
    readonly keyPath: string | string[] | null
    readonly autoIncrement: boolean
    readonly indexes: readonly { readonly name: string; readonly keyPath: string | string[] }[]
    readonly records: readonly { readonly key: IDBValidKey; readonly value: unknown }[]
  }[]
}

/** For each browser that goes on from test to test: a page that keeps what was stored, and the addresses of the pieces. */
const keepers = new WeakMap<
  BrowserContext,
  { readonly page: Page; readonly addresses: Map<Beginning, string> }
>()

export function keepBeginningsIn(page: Page): void {
  keepers.set(page.context(), { page, addresses: new Map() })
}

/**
 * Opens a page at a beginning.
 *
 * @param press how a user comes there; it is done where no test of this browser has been there, and where the piece is open already:
 * then it is another one
 */
export async function beginWith(page: Page, beginning: Beginning, press: () => Promise<void>): Promise<void> {
  const keeper = keepers.get(page.context())
  if (!keeper) {
    await press()
    return
  }
  const address = keeper.addresses.get(beginning)
  const isOpen = page
    .context()
    .pages()
    .some((each) => address && idIn(each.url()) === idIn(address))
  if (address && !isOpen) {
    await keeper.page.evaluate(restore, beginning)
    await page.goto(address)
    return
  }
  await press()
  if (address) return
  await keeper.page.evaluate(keep, beginning)
  keeper.addresses.set(beginning, page.url())
}

const idIn = (address: string) =>
  address.startsWith('http') ? new URL(address).searchParams.get('id') : null

/** In the page that keeps: everything that is stored now. */
async function keep(beginning: string): Promise<void> {
  const done = <Result>(request: IDBRequest<Result>) =>
    new Promise<Result>((resolve, reject) => {
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error)
    })
  const databases: KeptDatabase[] = []
  for (const { name } of await indexedDB.databases()) {
    const db = await done(indexedDB.open(name!))
    const stores = []
    for (const each of db.objectStoreNames) {
      const store = db.transaction(each).objectStore(each)
      const [keys, values] = await Promise.all([done(store.getAllKeys()), done(store.getAll())])
      stores.push({
        name: each,
        keyPath: store.keyPath as string | string[] | null,
        autoIncrement: store.autoIncrement,
        indexes: [...store.indexNames].map((index) => ({
          name: index,
          keyPath: store.index(index).keyPath as string | string[],
        })),
        records: keys.map((key, index) => ({ key, value: values[index] })),
      })
    }
    databases.push({ name: db.name, version: db.version, stores })
    db.close()
  }
  const window = globalThis as KeepingWindow
  window.kept = { ...window.kept, [beginning]: databases }
}

/** In the page that keeps: what was stored then is stored again. */
async function restore(beginning: string): Promise<void> {
  for (const { name, version, stores } of (globalThis as KeepingWindow).kept[beginning]!) {
    const opening = indexedDB.open(name, version)
    opening.onupgradeneeded = () => {
      for (const each of stores) {
        const store = opening.result.createObjectStore(each.name, {
          keyPath: each.keyPath,
          autoIncrement: each.autoIncrement,
        })
        for (const index of each.indexes) store.createIndex(index.name, index.keyPath)
      }
    }
    const db = await new Promise<IDBDatabase>((resolve, reject) => {
      opening.onsuccess = () => resolve(opening.result)
      opening.onerror = () => reject(opening.error)
    })
    for (const { name: each, keyPath, records } of stores) {
      const writing = db.transaction(each, 'readwrite')
      for (const { key, value } of records)
        writing.objectStore(each).put(value, ...(keyPath === null ? [key] : []))
      await new Promise<void>((resolve, reject) => {
        writing.oncomplete = () => resolve()
        writing.onerror = () => reject(writing.error)
      })
    }
    db.close()
  }
}
