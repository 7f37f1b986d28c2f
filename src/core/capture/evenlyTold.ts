import type { HeardNote } from '../pitch/readLine'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'

/**
 * Notes that were read in the sound of a take, as if they had been played at one tempo from a bar line on. Written to a file of that tempo,
 * and brought into the piece at that bar, each lies where it was played, whatever the tempo did meanwhile.
 *
 * @param ticksAt where in the piece a moment of the sound lies, in milliseconds as the notes have them
 * @param barTicks where the bar line is @returns without what ended before it
 */
export function evenlyTold(
  notes: readonly HeardNote[],
  ticksAt: (ms: number) => Ticks,
  barTicks: Ticks,
  tempoBpm: number,
): HeardNote[] {
  const evenMs = (ms: number) => ((ticksAt(ms) - barTicks) / TICKS_PER_QUARTER) * (60_000 / tempoBpm)
  return notes.flatMap((note) => {
    const onsetMs = Math.max(0, evenMs(note.onsetMs))
    const durationMs = evenMs(note.onsetMs + note.durationMs) - onsetMs
    return durationMs > 0 ? [{ ...note, onsetMs, durationMs }] : []
  })
}
