import type { Project } from '../project/schema'
import type { KnownPort } from '../routing/ports'

/** Something in the wiring that will surprise, in a sentence, with its remedies. */
export interface WiringRemark {
  /** The same for the same matter, so that it can be said to be meant so. */
  readonly id: string
  readonly head: string
  readonly text: string
  /** Whom it is about: where it is shown. */
  readonly sourceIds: readonly string[]
  readonly trackIds: readonly string[]
  readonly fixes: readonly { readonly label: string; readonly change: (project: Project) => Project }[]
}

/** What was seen of the world lately. */
export interface RecentActivity {
  /** MIDI ports that are there; null where the browser has none to tell of. */
  readonly ports: readonly KnownPort[] | null
  /** Note-ons heard from each stream since the project was opened. */
  readonly streams: readonly {
    readonly portId: string
    readonly channel: number
    readonly noteOns: number
  }[]
  /** Cables that a program outside reads. */
  readonly readCables: readonly string[]
}

export const nothingSeen: RecentActivity = { ports: null, streams: [], readCables: [] }
