import type { DBSchema } from 'idb'
import { joinTakeEvents, type TakeEvents } from '@/core/capture/takeEvents'
import type { ClockPoint } from '@/core/capture/takePlacement'
import { openAtUse } from '../openAtUse'
import type { JournalTake } from './journalTake'

/** A take as it lies in the journal: `endMs` is null while recording, and for ever when the recording was interrupted. */
export type JournaledTake = JournalTake

/** A take that a stored project has, or that nobody wants, is filed: it need not be offered. */
type StoredTake = JournaledTake & { readonly isFiled: boolean }

/** What was played within a short time, with where a followed clock was meanwhile. */
interface Stretch {
  readonly projectId: string
  readonly takeSerial: number
  readonly sequence: number
  readonly events: TakeEvents
  /** Absent in takes that were written before this was kept. */
  readonly clockPoints?: readonly ClockPoint[]
}

interface JournalSchema extends DBSchema {
  takes: { key: [string, number]; value: StoredTake; indexes: { byProject: string } }
  stretches: { key: [string, number, number]; value: Stretch }
}

const { open } = openAtUse<JournalSchema>('unbroken-voice-journal', 1, (db) => {
  db.createObjectStore('takes', { keyPath: ['projectId', 'takeSerial'] }).createIndex(
    'byProject',
    'projectId',
  )
  db.createObjectStore('stretches', { keyPath: ['projectId', 'takeSerial', 'sequence'] })
})

const stretchesOf = async (projectId: string, takeSerial: number): Promise<Stretch[]> =>
  (await open()).getAll(
    'stretches',
    IDBKeyRange.bound([projectId, takeSerial, 0], [projectId, takeSerial, Number.MAX_SAFE_INTEGER]),
  )

/** Everything played, as it was played: takes are added to while recording and never changed afterwards. */
export const journal = {
  /** A take that goes on. One that has ended meanwhile (this was tried again for want of room) stays ended. */
  async begin(take: JournaledTake): Promise<void> {
    const transaction = (await open()).transaction('takes', 'readwrite')
    const known = await transaction.store.get([take.projectId, take.takeSerial])
    if ((known?.endMs ?? null) === null) await transaction.store.put({ ...take, isFiled: false })
    await transaction.done
  },

  async append(
    projectId: string,
    takeSerial: number,
    sequence: number,
    events: TakeEvents,
    clockPoints: readonly ClockPoint[],
  ): Promise<void> {
    await (await open()).put('stretches', { projectId, takeSerial, sequence, events, clockPoints })
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

  /** Takes written before loops and stretches were recorded, before takes were filed, or before it was kept what they are played to, lack their fields. */
  async takesOf(projectId: string): Promise<StoredTake[]> {
    const stored = await (await open()).getAllFromIndex('takes', 'byProject', projectId)
    return stored.map((take) => ({
      ...take,
      endTicks: take.endTicks ?? null,
      earlyMs: take.earlyMs ?? 80,
      passMs: take.passMs ?? null,
      playedTo: take.playedTo ?? null,
      isFiled: take.isFiled ?? take.endMs !== null,
    }))
  },

  async eventsOf(projectId: string, takeSerial: number): Promise<TakeEvents> {
    return joinTakeEvents((await stretchesOf(projectId, takeSerial)).map(({ events }) => events))
  },

  /** Where a followed clock was while it was played, in order. */
  async clockPointsOf(projectId: string, takeSerial: number): Promise<ClockPoint[]> {
    return (await stretchesOf(projectId, takeSerial)).flatMap(({ clockPoints }) => clockPoints ?? [])
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
