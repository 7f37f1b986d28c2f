import type { Ticks } from '@/core/time/units'
import type { Activity } from '@/engine/protocol'

/** A note that is being recorded right now, for the pictures. */
export interface LiveNote {
  readonly trackId: string
  readonly key: number
  readonly velocity: number
  readonly onsetTicks: Ticks
  endTicks: Ticks | null
  /** Which turn of the loop it was played in. */
  readonly pass: number
}

export type LiveNotes = ReturnType<typeof createLiveNotes>

/** Follows what is being recorded, until it is a take. */
export function createLiveNotes() {
  let notes: LiveNote[] = []

  function take(events: readonly Activity[]): void {
    for (const event of events) {
      if (event.ticks === null) continue
      for (const trackId of event.trackIds) {
        if (event.isOn)
          notes.push({
            trackId,
            key: event.key,
            velocity: event.velocity,
            onsetTicks: event.ticks,
            endTicks: null,
            pass: event.pass,
          })
        else {
          const open = notes.findLast(
            (note) => note.trackId === trackId && note.key === event.key && note.endTicks === null,
          )
          if (open) open.endTicks = event.ticks
        }
      }
    }
  }

  return {
    take,
    clear() {
      notes = []
    },
    list: (): readonly LiveNote[] => notes,
  }
}
