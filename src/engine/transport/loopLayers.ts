import { type LoopedTime, splitPasses } from '@/core/capture/passes'
import type { TakeEvents } from '@/core/capture/takeEvents'
import type { TakePlacement } from '@/core/capture/takePlacement'
import { takeToNotes } from '@/core/capture/takeToNotes'
import type { RecordedTrack } from '@/core/capture/trackDesk'
import type { Note } from '@/core/event/note'
import type { Listener } from '@/core/routing/route'
import type { Milliseconds, Ticks } from '@/core/time/units'

/** Note ids of layers begin here, far above those of a project; each pass has this many to itself. */
const firstLayerId = 1_000_000_000
const idsPerPass = 1_000_000

/** What was played in earlier passes of the loop that is being recorded, as notes to play back. */
export class LoopLayers {
  private readonly passes = new Map<number, readonly RecordedTrack[]>()

  constructor(
    private readonly loop: LoopedTime,
    private readonly startTicks: Ticks,
    /** The tempi it is played to, how late sources are, and the effects they play through. */
    private readonly playedTo: Pick<TakePlacement, 'tempoMap' | 'meterMap' | 'compensations' | 'chains'>,
  ) {}

  /**
   * Reads the passes before a given one; the last two are read anew each time, since releases may have come. A note
   * still held sounds to the end of its pass.
   */
  update(events: TakeEvents, beforePass: number, tracks: readonly Listener[], nowMs: Milliseconds): void {
    for (const pass of splitPasses(events, this.loop, nowMs)) {
      if (pass.index >= beforePass || (pass.index < beforePass - 2 && this.passes.has(pass.index))) continue
      const placement = {
        takeSerial: 0,
        startTicks: this.startTicks,
        anchorMs: pass.anchorMs,
        endMs: pass.anchorMs + this.loop.passMs,
        ...this.playedTo,
        earlyMs: this.loop.earlyMs,
      }
      const ids = firstLayerId + pass.index * idsPerPass
      this.passes.set(pass.index, takeToNotes(pass.events, placement, tracks, ids).tracks)
    }
  }

  notesOf(trackId: string): readonly Note[] {
    return [...this.passes.values()].flatMap(
      (tracks) => tracks.find((track) => track.trackId === trackId)?.notes ?? [],
    )
  }
}
