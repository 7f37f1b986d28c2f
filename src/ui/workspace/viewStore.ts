import { createStore } from 'zustand/vanilla'
import type { FoundBars } from '@/core/beats/findBars'
import type { NoteId } from '@/core/event/note'
import type { ChosenOnPage } from '@/core/notation/amendments/stroke'
import type { Project } from '@/core/project/schema'
import type { KeptPosition } from '@/core/project/tempoEdits'
import type { Partition } from '../tracks/strands'

export const steps = ['players', 'record', 'effects', 'tracks', 'score', 'deliver'] as const
export type Step = (typeof steps)[number]

/** What is looked at: kept while the project is open, not stored. */
export interface ViewState {
  readonly step: Step
  readonly trackId: string | null
  /** What the effects are looked at of: a player or a generator; null: the chosen track. */
  readonly workplace: { readonly kind: 'source' | 'generator'; readonly id: string } | null
  readonly noteIds: ReadonlySet<NoteId>
  /** A rest of the page that is chosen; where notes are chosen, they are meant. */
  readonly rest: Extract<ChosenOnPage, { readonly kind: 'rest' }> | null
  /** What was changed by hand is shown on the page. */
  readonly areHandChangesShown: boolean
  /** What is open beside the roll. */
  readonly bench: Bench | null
  /** The lines that notes were told to belong to are shown in colours of their own. */
  readonly areVoicesShown: boolean
  /** How the notes of a track would be taken apart. */
  readonly partition: Partition | null
  /** Notes whose line is in doubt, in order. */
  readonly doubtful: readonly NoteId[]
  /** Bars that were found in what was played, before they are used, and the tempi the piece had then: under others they lie elsewhere. */
  readonly foundBars: { readonly bars: FoundBars; readonly under: Project['tempos'] } | null
  /** The voices that notes had before they were put into another by hand: a correction that can be carried on. */
  readonly corrected: { readonly trackId: string; readonly before: ReadonlyMap<NoteId, number> } | null
  /** Other tracks are shown faintly behind the notes of the chosen one, and can be reached. */
  readonly areOthersShown: boolean
  /** All drums of a kit have a row, not only those that are struck. */
  readonly isKitWhole: boolean
  /** The track whose timing is laid on another. */
  readonly timingTrackId: string | null
  /** What the last edit did, in a sentence, and the piece as it is since: said until the piece is another. */
  readonly told: { readonly text: string; readonly of: Project } | null
  /** The list of everything that can be done is open. */
  readonly isFinding: boolean
  /** What recorded notes keep when a tempo is changed. */
  readonly keptPosition: KeptPosition
  /** Files were written and checked since the project was opened. */
  readonly isDelivered: boolean
}

/** Places beside the roll where notes are worked on. */
export const benches = ['edit', 'apart', 'together', 'bars', 'sound'] as const
export type Bench = (typeof benches)[number]

const firstView: ViewState = {
  step: 'players',
  trackId: null,
  workplace: null,
  noteIds: new Set(),
  rest: null,
  areHandChangesShown: false,
  bench: null,
  areVoicesShown: true,
  partition: null,
  doubtful: [],
  foundBars: null,
  corrected: null,
  areOthersShown: false,
  isKitWhole: false,
  timingTrackId: null,
  told: null,
  isFinding: false,
  keptPosition: 'bar',
  isDelivered: false,
}

export const viewStore = createStore<ViewState>(() => firstView)

/** Another piece is looked at: nothing of the one before is meant in it. How one likes to look stays. */
export function lookAtAnother(step: Step): void {
  const { areVoicesShown, areOthersShown, keptPosition } = viewStore.getState()
  viewStore.setState({ ...firstView, step, areVoicesShown, areOthersShown, keptPosition })
}

export function goTo(step: Step): void {
  viewStore.setState({ step })
  const url = new URL(location.href)
  url.searchParams.set('step', step)
  // The plain method: the framework's own would render the whole page again.
  History.prototype.replaceState.call(history, history.state, '', url)
}

export function selectTrack(trackId: string): void {
  if (viewStore.getState().trackId !== trackId)
    viewStore.setState({ trackId, noteIds: new Set(), partition: null, corrected: null })
  viewStore.setState({ workplace: null })
}

export function selectWorkplace(kind: 'source' | 'generator', id: string): void {
  viewStore.setState({ workplace: { kind, id } })
}

export function selectNotes(noteIds: Iterable<NoteId>): void {
  viewStore.setState({ noteIds: new Set(noteIds), told: null })
}

/** Opens a place beside the roll, or closes it when it is open. */
export function turnBench(bench: Bench): void {
  const isOpen = viewStore.getState().bench === bench
  viewStore.setState({ bench: isOpen ? null : bench, partition: null })
}

/** Says what an edit did. */
export function tell(text: string, of: Project): void {
  viewStore.setState({ told: { text, of } })
}
