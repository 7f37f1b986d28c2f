import type { Milliseconds } from '../time/units'
import { shortestBeatMs } from './correctBars'
import { barsOfBeats, type FoundBars, refineBeats } from './findBars'
import { strokesOf, type TimedNote } from './strokes'

/** Fewer taps say no tempo. */
export const fewestTaps = 4

/**
 * Bars from taps along to the music: each is moved onto the notes it was meant for; before the first and after the last tap beats go
 * on as they were tapped there, as far as there are notes, and a beat that was missed between two taps is put in.
 *
 * @param notes in order of onset, one at least
 * @param tapsMs in any order
 * @returns null where there are too few taps
 */
export function barsOfTaps(notes: readonly TimedNote[], tapsMs: readonly Milliseconds[]): FoundBars | null {
  const taps: Milliseconds[] = []
  for (const tapMs of [...tapsMs].sort((a, b) => a - b))
    if (taps.length === 0 || tapMs - taps.at(-1)! >= shortestBeatMs) taps.push(tapMs)
  if (taps.length < fewestTaps || notes.length === 0) return null
  const usualMs = usualLength(taps)
  const [firstMs, lastMs] = [notes[0]!.onsetMs, Math.max(...notes.map(({ onsetMs }) => onsetMs))]
  const beginning = usualLength(taps.slice(0, 6))
  const end = usualLength(taps.slice(-6))
  const beatsMs = taps.flatMap((tap, index) => [tap, ...missedAfter(tap, taps[index + 1], usualMs)])
  while (beatsMs[0]! > firstMs + beginning / 4) beatsMs.unshift(beatsMs[0]! - beginning)
  while (beatsMs.at(-1)! < lastMs - end / 4) beatsMs.push(beatsMs.at(-1)! + end)
  return barsOfBeats(notes, refineBeats(beatsMs, strokesOf(notes)), 2)
}

/** Beats that were not tapped between two taps. */
function missedAfter(
  tapMs: Milliseconds,
  nextMs: Milliseconds | undefined,
  usualMs: Milliseconds,
): Milliseconds[] {
  if (nextMs === undefined) return []
  const beats = Math.round((nextMs - tapMs) / usualMs)
  return Array.from(
    { length: Math.max(0, beats - 1) },
    (_, index) => tapMs + ((nextMs - tapMs) * (index + 1)) / beats,
  )
}

/** The middle one of the lengths between taps. */
function usualLength(taps: readonly Milliseconds[]): Milliseconds {
  const lengths = taps.slice(1).map((tap, index) => tap - taps[index]!)
  return lengths.sort((a, b) => a - b)[lengths.length >> 1]!
}
