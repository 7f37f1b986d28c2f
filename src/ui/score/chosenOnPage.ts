import type { ChosenOnPage } from '@/core/notation/amendments/stroke'
import type { ViewState } from '../workspace/viewStore'

/** What is chosen on the page: notes before a rest; null where nothing is. */
export function chosenOnPage({ noteIds, rest }: Pick<ViewState, 'noteIds' | 'rest'>): ChosenOnPage | null {
  return noteIds.size > 0 ? { kind: 'notes', noteIds: [...noteIds] } : rest
}
