import type { TempoChange } from '../time/tempoMap'
import type { Milliseconds } from '../time/units'
import { joinTakeEvents, type TakeEvents, TakeRecorder } from './takeEvents'
import type { ClockPoint } from './takePlacement'

/** How long what is played outside recording is kept. */
export const listeningMs: Milliseconds = 30 * 60_000
/** Events of about this much time are kept and dropped together. */
const stretchMs: Milliseconds = 60_000

/** Where the piece was when a note was played along to it, and the tempi it ran at. */
export interface HeardPlace extends ClockPoint {
  readonly tempos: readonly TempoChange[]
}

/**
 * Remembers what was played while nothing was recording, the last half hour of it, so that it can become a take
 * afterwards.
 */
export class Listening {
  private stretches: { readonly startMs: Milliseconds; readonly recorder: TakeRecorder }[] = []
  private strokes = 0
  /** Where the first remembered note was played, if along to the piece. */
  private place: HeardPlace | null = null

  /** Note-ons remembered, counted with those of dropped stretches taken off. */
  get noteCount(): number {
    return this.strokes
  }

  /**
   * @param placeOf where the event lies in the piece while it plays; null while it does not
   */
  add(
    portId: string,
    timeMs: Milliseconds,
    status: number,
    data1: number,
    data2: number,
    placeOf: () => HeardPlace | null = () => null,
  ): void {
    let last = this.stretches.at(-1)
    if (!last || timeMs - last.startMs >= stretchMs) {
      last = { startMs: timeMs, recorder: new TakeRecorder() }
      this.stretches.push(last)
      this.forgetBefore(timeMs - listeningMs)
    }
    last.recorder.add(portId, timeMs, status, data1, data2)
    if (!isStroke(status, data2)) return
    if (this.strokes++ === 0) this.place = placeOf()
  }

  /** All that is remembered, from the first note-on; what it was is forgotten. */
  take(): { readonly events: TakeEvents; readonly place: HeardPlace | null } {
    const { place } = this
    const events = joinTakeEvents(this.stretches.map((stretch) => stretch.recorder.slice()))
    this.clear()
    let first = 0
    while (first < events.count && !isStroke(events.statuses[first]!, events.data2[first]!)) first++
    return { events: dropEvents(events, first), place }
  }

  clear(): void {
    this.stretches = []
    this.strokes = 0
    this.place = null
  }

  private forgetBefore(timeMs: Milliseconds): void {
    while (this.stretches.length > 1 && this.stretches[1]!.startMs <= timeMs) {
      const { recorder } = this.stretches.shift()!
      const events = recorder.slice()
      for (let i = 0; i < events.count; i++)
        if (isStroke(events.statuses[i]!, events.data2[i]!)) this.strokes--
      // The note it told the place of is gone.
      this.place = null
    }
  }
}

function isStroke(status: number, data2: number): boolean {
  return (status & 0xf0) === 0x90 && data2 > 0
}

function dropEvents(events: TakeEvents, first: number): TakeEvents {
  return {
    count: events.count - first,
    portIds: events.portIds,
    timesMs: events.timesMs.slice(first),
    ports: events.ports.slice(first),
    statuses: events.statuses.slice(first),
    data1: events.data1.slice(first),
    data2: events.data2.slice(first),
  }
}
