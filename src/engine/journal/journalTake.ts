import type { PlayedTo, TakeInfo } from '@/core/capture/takeInfo'
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
  /** Null in takes that were written before this was kept. */
  readonly playedTo: PlayedTo | null
}

/** A take that a piece has already, as the journal keeps it. */
export function journalTakeOf(projectId: string, info: TakeInfo): JournalTake {
  const { serial, startTicks, earlyMs, anchorMs, durationMs } = info
  const { tempos, listeners, compensations, chains } = info
  return {
    projectId,
    takeSerial: serial,
    startTicks,
    endTicks: null,
    earlyMs,
    passMs: null,
    anchorMs,
    endMs: anchorMs + durationMs,
    playedTo: { tempos, listeners, compensations, chains },
  }
}
