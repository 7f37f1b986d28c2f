import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import { joinTakeEvents, type TakeEvents } from '@/core/capture/takeEvents'
import type { JournalTake } from './journalTake'

/** A take as it lies in the journal: `endMs` is null while recording, and for ever when the recording was interrupted. */
export type JournaledTake = JournalTake

/** A take that a stored project has, or that nobody wants, is filed: it need not be offered. */
type StoredTake = JournaledTake & { readonly isFiled: boolean }

interface JournalSchema extends DBSchema {
  takes: { key: [string, number]; value: StoredTake; indexes: { byProject: string } }
  stretches: {
    key: [string, number, number]
    value: { projectId: string; takeSerial: number; sequence: number; events: TakeEvents }
  }
}

let database: Promise<IDBPDatabase<JournalSchema>> | undefined

function open(): Promise<IDBPDatabase<JournalSchema>> {
  database ??= openDB<JournalSchema>('unbroken-voice-journal', 1, {
    upgrade(db) {
      db.createObjectStore('takes', { keyPath: ['projectId', 'takeSerial'] }).createIndex(
        'byProject',
        'projectId',
      )
      db.createObjectStore('stretches', { keyPath: ['projectId', 'takeSerial', 'sequence'] })
    },
    blocking() {
      void database?.then((db) => db.close())
      database = undefined
    },
    terminated() {
      database = undefined
    },
  })
  return database
}

/** Everything played, as it was played: takes are added to while recording and never changed afterwards. */
export const journal = {
  async begin(take: JournaledTake): Promise<void> {
    await (await open()).put('takes', { ...take, isFiled: false })
  },

  async append(projectId: string, takeSerial: number, sequence: number, events: TakeEvents): Promise<void> {
    await (await open()).put('stretches', { projectId, takeSerial, sequence, events })
  },

  async finish(take: JournaledTake): Promise<void> {
    await (await open()).put('takes', { ...take, isFiled: false })
  },

  /** These takes are in the stored project, or not wanted. */
  async file(projectId: string, takeSerials: readonly number[]): Promise<void> {
    const transaction = (await open()).transaction('takes', 'readwrite')
    for (const takeSerial of takeSerials) {
      const take = await transaction.store.get([projectId, takeSerial])
      if (take && !take.isFiled) await transaction.store.put({ ...take, isFiled: true })
    }
    await transaction.done
  },

  /** Takes written before loops and stretches were recorded, or before takes were filed, lack their fields. */
  async takesOf(projectId: string): Promise<StoredTake[]> {
    const stored = await (await open()).getAllFromIndex('takes', 'byProject', projectId)
    return stored.map((take) => ({
      ...take,
      endTicks: take.endTicks ?? null,
      earlyMs: take.earlyMs ?? 80,
      passMs: take.passMs ?? null,
      isFiled: take.isFiled ?? take.endMs !== null,
    }))
  },

  async eventsOf(projectId: string, takeSerial: number): Promise<TakeEvents> {
    const range = IDBKeyRange.bound(
      [projectId, takeSerial, 0],
      [projectId, takeSerial, Number.MAX_SAFE_INTEGER],
    )
    const stretches = await (await open()).getAll('stretches', range)
    return joinTakeEvents(stretches.map((stretch) => stretch.events))
  },

  /** A whole take at once, as it comes from a project file. */
  async put(take: JournaledTake, events: TakeEvents): Promise<void> {
    const transaction = (await open()).transaction(['takes', 'stretches'], 'readwrite')
    const { projectId, takeSerial } = take
    await Promise.all([
      transaction.objectStore('takes').put({ ...take, isFiled: true }),
      transaction.objectStore('stretches').put({ projectId, takeSerial, sequence: 0, events }),
      transaction.done,
    ])
  },

  /** Puts the passes of a loop in the place of the one recording they came in; all or nothing. */
  async putPasses(
    passes: readonly { readonly take: JournaledTake; readonly events: TakeEvents }[],
  ): Promise<void> {
    const transaction = (await open()).transaction(['takes', 'stretches'], 'readwrite')
    const stretches = transaction.objectStore('stretches')
    const work: Promise<unknown>[] = []
    for (const { take, events } of passes) {
      const { projectId, takeSerial } = take
      const whole = [projectId, takeSerial, 0]
      work.push(
        stretches.delete(IDBKeyRange.bound(whole, [projectId, takeSerial, Number.MAX_SAFE_INTEGER])),
        stretches.put({ projectId, takeSerial, sequence: 0, events }),
        transaction.objectStore('takes').put({ ...take, isFiled: false }),
      )
    }
    await Promise.all([...work, transaction.done])
  },

  async deleteProject(projectId: string): Promise<void> {
    const transaction = (await open()).transaction(['takes', 'stretches'], 'readwrite')
    await Promise.all([
      transaction
        .objectStore('takes')
        .delete(IDBKeyRange.bound([projectId, 0], [projectId, Number.MAX_SAFE_INTEGER])),
      transaction
        .objectStore('stretches')
        .delete(
          IDBKeyRange.bound([projectId, 0, 0], [projectId, Number.MAX_SAFE_INTEGER, Number.MAX_SAFE_INTEGER]),
        ),
      transaction.done,
    ])
  },
}
