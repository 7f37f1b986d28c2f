import { createStore } from 'zustand/vanilla'
import type { NoteId } from '@/core/event/note'
import type { KeptPosition } from '@/core/project/tempoEdits'

export const steps = ['players', 'record', 'effects', 'tracks', 'score', 'deliver'] as const
export type Step = (typeof steps)[number]

/** What is looked at: kept while the project is open, not stored. */
export interface ViewState {
  readonly step: Step
  readonly trackId: string | null
  /** What the effects are looked at of: a player or a generator; null: the chosen track. */
  readonly workplace: { readonly kind: 'source' | 'generator'; readonly id: string } | null
  readonly noteIds: ReadonlySet<NoteId>
  /** What recorded notes keep when a tempo is changed. */
  readonly keptPosition: KeptPosition
  /** Files were written and checked since the project was opened. */
  readonly isDelivered: boolean
}

export const viewStore = createStore<ViewState>(() => ({
  step: 'players',
  trackId: null,
  workplace: null,
  noteIds: new Set(),
  keptPosition: 'bar',
  isDelivered: false,
}))

export function goTo(step: Step): void {
  viewStore.setState({ step })
  const url = new URL(location.href)
  url.searchParams.set('step', step)
  // The plain method: the framework's own would render the whole page again.
  History.prototype.replaceState.call(history, history.state, '', url)
}

export function selectTrack(trackId: string): void {
  if (viewStore.getState().trackId !== trackId) viewStore.setState({ trackId, noteIds: new Set() })
  viewStore.setState({ workplace: null })
}

export function selectWorkplace(kind: 'source' | 'generator', id: string): void {
  viewStore.setState({ workplace: { kind, id } })
}

export function selectNotes(noteIds: Iterable<NoteId>): void {
  viewStore.setState({ noteIds: new Set(noteIds) })
}
