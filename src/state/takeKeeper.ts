import type { TakeEvents } from '@/core/capture/takeEvents'
import type { Milliseconds } from '@/core/time/units'
import { journal } from '@/engine/journal/journal'
import type { Afterwards } from './chainLog'
import type { LiveStore } from './liveState'
import type { ProjectStore } from './projectStore'
import {
  dismissRecording,
  type FinishedRecording,
  finishRecording,
  interruptedRecordings,
  recoverRecording,
} from './takes'

interface TakeKeeperOptions {
  readonly projectId: string
  readonly store: ProjectStore
  readonly live: LiveStore
  /** What else a recording changes in the project. */
  afterwards(takeSerial: number): Afterwards
  /** Whether this tab still has the project. */
  isHolding(): Promise<boolean>
  notify(text: string, isProblem?: boolean): void
}

/** A tab that lost its project while it recorded says that it has left a take. */
const leftTakes = 'unbroken-voice-left-takes'

/** What becomes of recordings: takes of the project, or offered again when they were cut off. */
export function createTakeKeeper({
  projectId,
  store,
  live,
  afterwards,
  isHolding,
  notify,
}: TakeKeeperOptions) {
  /** Takes in the project that the journal still counts as not filed, since no stored project has them yet. */
  const unfiled = new Set<number>()
  /** What was played in them: the journal may have had no room for it. */
  const heldEvents = new Map<number, TakeEvents>()
  const channel = new BroadcastChannel(leftTakes)
  channel.onmessage = ({ data }) => {
    if (data === projectId)
      lookForInterrupted(true).catch((error) =>
        notify(`A take left by another tab was not found: ${error}`, true),
      )
  }

  async function lookForInterrupted(isEnded = false): Promise<void> {
    const found = await interruptedRecordings(store.getState().project, isEnded)
    const { interruptedTakes } = live.getState()
    if (found.length > 0) live.setState({ interruptedTakes: [...new Set([...interruptedTakes, ...found])] })
  }

  function offerNoMore(takeSerial: number): void {
    live.setState({
      interruptedTakes: live.getState().interruptedTakes.filter((serial) => serial !== takeSerial),
    })
  }

  function keep(recording: FinishedRecording): void {
    const finished = finishRecording(store, recording, afterwards(recording.takeSerial), isHolding)
    switch (finished.outcome) {
      case 'empty':
        notify('Nothing was played, so no take was kept.')
        void journal.file(projectId, [recording.takeSerial])
        offerNoMore(recording.takeSerial)
        return
      case 'refused':
        notify(
          'The recording could not be made a take of this project. It is kept as it was played, and is offered when the project is opened again.',
          true,
        )
        return
      case 'kept': {
        const { account, name, serials, events } = finished
        for (const serial of serials) unfiled.add(serial)
        for (const [serial, played] of events) heldEvents.set(serial, played)
        finished.stored.catch((error) =>
          notify(
            `The passes of ${name} are in the piece, but could not be stored as they were played: ${error.message ?? error}`,
            true,
          ),
        )
        live.setState({
          // The next pass begins where this one did.
          ...(live.getState().transport.state === 'stopped' && {
            transport: { state: 'stopped', ticks: recording.startTicks },
          }),
          lastTake: { ...account, name, passes: serials.length, lastSerial: serials.at(-1)! },
        })
        offerNoMore(recording.takeSerial)
      }
    }
  }

  return {
    keep,

    /** Looks for recordings that a crash or a closed page cut off. */
    lookForInterrupted,

    /** What was played in a take, from memory as long as it may not be stored. */
    eventsOf: async (takeSerial: number): Promise<TakeEvents> =>
      heldEvents.get(takeSerial) ?? (await journal.eventsOf(projectId, takeSerial)),

    /** This tab has lost the project: what it recorded last, and could not store with it, is offered where the project is now. */
    leaveTakes: () => channel.postMessage(projectId),

    close: () => channel.close(),

    async recover(takeSerial: number): Promise<void> {
      const recording = await recoverRecording(store.getState().project, takeSerial)
      if (recording) keep(recording)
    },

    async dismiss(takeSerial: number): Promise<void> {
      await dismissRecording(projectId, takeSerial)
      offerNoMore(takeSerial)
    },

    /** The stored project has its takes now: they need not be offered again. */
    async file(serialsInProject: readonly number[]): Promise<void> {
      const stored = serialsInProject.filter((serial) => unfiled.has(serial))
      if (stored.length === 0) return
      for (const serial of stored) unfiled.delete(serial)
      await journal.file(projectId, stored)
      if (live.getState().journalBehind !== null) return
      for (const serial of heldEvents.keys()) if (!unfiled.has(serial)) heldEvents.delete(serial)
    },
  }
}

/** The engine gets this long to hand over a take when its project is left. */
export const longestLeavingMs: Milliseconds = 4000
