import type { Milliseconds, Ticks } from '@/core/time/units'

/** How a take lies in a project, as the journal keeps it. */
export interface JournalTake {
  readonly projectId: string
  readonly takeSerial: number
  readonly startTicks: Ticks
  /** Notes from here on are outside the stretch that is recorded; null: it is open. */
  readonly endTicks: Ticks | null
  readonly anchorMs: Milliseconds
  readonly endMs: Milliseconds | null
  readonly earlyMs: Milliseconds
  /** Length of a pass where a loop is recorded. */
  readonly passMs: Milliseconds | null
}
