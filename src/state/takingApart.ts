import { transfer } from 'comlink'
import type { Note } from '@/core/event/note'
import { columnBuffers, packNotes } from '@/core/event/noteColumns'
import { contextOf } from '@/core/project/context'
import { type TakenApart, togetherQuartersAt, type Way } from '@/core/separation/takeApart'
import type { Computing } from './computing'
import { sourcesOf } from './noteSources'
import type { ProjectStore } from './projectStore'

/** Has notes of one track taken apart in the thread that computes; nothing of the project changes. */
export function createTakingApart(store: ProjectStore, computing: Computing) {
  return async (notes: readonly Note[], way: Way): Promise<TakenApart> => {
    const middle = notes[notes.length >> 1]
    if (!middle) return { parts: [], unsure: [] }
    const { project } = store.getState()
    const sources = way.by === 'source' ? await sourcesOf(project, notes) : null
    const togetherQuarters = togetherQuartersAt(contextOf(project).tempoMap.tempoAt(middle.onsetTicks))
    const columns = packNotes(notes)
    return computing.run((api) =>
      api.takeApart(transfer(columns, columnBuffers(columns)), way, { sources, togetherQuarters }),
    )
  }
}
