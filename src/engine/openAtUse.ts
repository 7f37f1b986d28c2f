import { type DBSchema, type IDBPDatabase, type OpenDBCallbacks, openDB } from 'idb'

/** A database of this browser, opened when it is used. */
export interface DatabaseAtUse<Schema extends DBSchema> {
  /** @throws what the browser says when it cannot be opened; the next use tries again */
  open(): Promise<IDBPDatabase<Schema>>
  /** The same when it is open: a page that is being left has no time to wait. */
  opened(): IDBPDatabase<Schema> | null
}

/**
 * Opens a database at its first use, and anew at a use after it could not be opened, after the browser took it away, or
 * after another tab wanted it in a newer form: this connection does not stand in the way then.
 *
 * @example
 * const kits = openAtUse<KitsSchema>('kits', 1, (db) => db.createObjectStore('kits', { keyPath: 'name' }))
 * await (await kits.open()).put('kits', { name: 'Brushes' })
 */
export function openAtUse<Schema extends DBSchema>(
  name: string,
  version: number,
  upgrade: NonNullable<OpenDBCallbacks<Schema>['upgrade']>,
): DatabaseAtUse<Schema> {
  let opening: Promise<IDBPDatabase<Schema>> | null = null
  let opened: IDBPDatabase<Schema> | null = null
  const forget = () => {
    opening = null
    opened = null
  }
  /** Some browsers refuse by throwing at once, others later. */
  async function attempt(): Promise<IDBPDatabase<Schema>> {
    try {
      opened = await openDB<Schema>(name, version, {
        upgrade,
        blocking() {
          opened?.close()
          forget()
        },
        terminated: forget,
      })
      return opened
    } catch (error) {
      forget()
      throw error
    }
  }
  return {
    open() {
      opening ??= Promise.resolve().then(attempt)
      return opening
    },
    opened: () => opened,
  }
}
