import { createStore } from 'zustand/vanilla'
import type { Note } from '@/core/event/note'
import { asWritten } from '@/core/project/asWritten'
import { atItsSpeed } from '@/core/project/atItsSpeed'
import { type Practice, practising } from '@/core/project/practising'
import type { Project } from '@/core/project/schema'
import { type PlainParts, type Transfer, transferring } from '@/core/project/transferring'
import type { ProjectStore } from './projectStore'

/** How the piece is heard: nothing of it is stored. */
export interface HearingState {
  /** As its page is written, not as it was played. */
  readonly isAsWritten: boolean
  /** One part among the others. */
  readonly practice: Practice | null
  /** What is being played into another program. */
  readonly transfer: Transfer | null
}

/** What of a piece is heard: as it was played or as it is written, all parts alike or one before the others. */
export function createHearing(options: {
  readonly store: ProjectStore
  /** Called whenever the page is written anew. */
  onPage(listener: () => void): () => void
  sounds(): Promise<ReadonlyMap<string, readonly Note[]>>
  /** Gives the engine a piece to play. */
  tell(project: Project): void
  problem(error: unknown): void
}) {
  const state = createStore<HearingState>(() => ({ isAsWritten: false, practice: null, transfer: null }))
  let sounds: ReadonlyMap<string, readonly Note[]> | null = null
  let plain: PlainParts = new Map()

  /** The piece as it is heard. */
  function heard(project: Project): Project {
    const { practice } = state.getState()
    const written = sounds ? asWritten(project, sounds) : project
    return atItsSpeed(practice ? practising(written, practice) : written)
  }
  /** The piece as it is heard, or as it is sent while that is so: what the engine plays. */
  function told(project: Project): Project {
    const { transfer } = state.getState()
    return transfer ? transferring(atItsSpeed(project), transfer, plain) : heard(project)
  }
  const tell = () => options.tell(options.store.getState().project)

  async function follow(): Promise<void> {
    try {
      const found = await options.sounds()
      if (!state.getState().isAsWritten) return
      sounds = found
      tell()
    } catch (error) {
      options.problem(error)
    }
  }
  const unsubscribe = options.onPage(() => {
    if (state.getState().isAsWritten) void follow()
  })

  return {
    state,
    heard,
    told,
    /** From now on the parts of a transfer are sent, and nothing else is played; null: everything is as before. */
    transfer(transfer: Transfer | null, page: PlainParts = new Map()): void {
      plain = page
      if (transfer === state.getState().transfer) return
      state.setState({ transfer })
      tell()
    },
    hearAsWritten(isAsWritten: boolean): void {
      state.setState({ isAsWritten })
      if (isAsWritten) void follow()
      else {
        sounds = null
        tell()
      }
    },
    practise(practice: Practice | null): void {
      state.setState({ practice })
      tell()
    },
    stop: unsubscribe,
  }
}
