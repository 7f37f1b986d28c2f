import { useEffect } from 'react'
import { useStore } from 'zustand'
import { createStore, type StoreApi } from 'zustand/vanilla'
import type { KeptShelf } from '@/state/rig'
import { useSession } from '../workspace/sessionContext'

const stores = new WeakMap<object, StoreApi<readonly unknown[]>>()

/** One list for all that look at a shelf. */
function storeOf<Kept extends { readonly name: string }>(shelf: KeptShelf<Kept>): StoreApi<readonly Kept[]> {
  let store = stores.get(shelf) as StoreApi<readonly Kept[]> | undefined
  if (!store) {
    store = createStore<readonly Kept[]>(() => [])
    stores.set(shelf, store as StoreApi<readonly unknown[]>)
  }
  return store
}

/** Things kept under a name for any project, and what can be done with them. */
export function useKept<Kept extends { readonly name: string }>(shelf: KeptShelf<Kept>, what: string) {
  const session = useSession()
  const store = storeOf(shelf)
  const kept = useStore(store)
  const refresh = async () => {
    const { kept: found, unreadable } = await shelf.list()
    store.setState(found, true)
    return unreadable
  }
  // biome-ignore lint/correctness/useExhaustiveDependencies: read once for each that looks
  useEffect(() => {
    refresh()
      .then((unreadable) => {
        if (unreadable.length > 0)
          session.notify(
            `The kept ${what} ${unreadable.map((name) => `“${name}”`).join(', ')} cannot be read and cannot be chosen. Nothing of it was deleted.`,
            true,
          )
      })
      .catch((error) => session.notify(`What is kept cannot be read: ${error.message}`, true))
  }, [session])
  const attempt = (work: Promise<void>) =>
    work
      .then(refresh)
      .then(() => true)
      .catch((error) => {
        session.notify(`Nothing was kept: ${error.message}`, true)
        return false
      })
  return {
    kept,
    /** @returns whether it is kept now */
    keep: (thing: Kept) => attempt(shelf.save(thing)),
    forget: (name: string) => attempt(shelf.remove(name)),
  }
}
