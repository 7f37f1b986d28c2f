import type { Activity } from '@/engine/protocol'

type Listener = (events: readonly Activity[]) => void

/** Tells everyone who asked of the notes that go by: the parts of the session first, in their order, then the views. */
export function createActivityHub(parts: () => readonly Listener[]) {
  const views = new Set<Listener>()
  return {
    pass(events: readonly Activity[]): void {
      for (const listener of [...parts(), ...views]) listener(events)
    },
    /** @returns ends it */
    onActivity(listener: Listener): () => void {
      views.add(listener)
      return () => views.delete(listener)
    },
  }
}
