import type { Milliseconds } from '../time/units'
import type { BeatsPerBar, FoundBars } from './findBars'

/** Beats no closer than this and no further apart can be written. */
export const shortestBeatMs: Milliseconds = 100
export const longestBeatMs: Milliseconds = 10_000

/** The same performance counted twice as fast: a beat more between each two. */
export function twiceAsFast(found: FoundBars): FoundBars {
  const { beatsMs } = found
  if (beatsMs.some((beatMs, index) => index > 0 && (beatMs - beatsMs[index - 1]!) / 2 < shortestBeatMs))
    return found
  const doubled = beatsMs.flatMap((beatMs, index) =>
    index + 1 < beatsMs.length ? [beatMs, (beatMs + beatsMs[index + 1]!) / 2] : [beatMs],
  )
  return withPickup({ ...found, beatsMs: doubled }, found.pickupBeats * 2)
}

/** Half as fast: every second beat, counted from the first bar line. */
export function halfAsFast(found: FoundBars): FoundBars {
  const parity = found.pickupBeats % 2
  const halved = found.beatsMs.filter((_, beat) => beat % 2 === parity)
  if (halved.length < 2) return found
  if (halved.some((beatMs, index) => index > 0 && beatMs - halved[index - 1]! > longestBeatMs)) return found
  return withPickup({ ...found, beatsMs: halved }, (found.pickupBeats - parity) / 2)
}

/** So many beats to the bar; the first bar line stays where it is. */
export function countedIn(found: FoundBars, beatsPerBar: BeatsPerBar): FoundBars {
  return withPickup({ ...found, beatsPerBar }, found.pickupBeats)
}

/** Beats that are divided in halves, or in thirds. */
export function dividedIn(found: FoundBars, division: FoundBars['division']): FoundBars {
  return withPickup({ ...found, division }, found.pickupBeats)
}

/** A bar begins at the beat nearest to a moment: "this is beat one". */
export function beatOneAt(found: FoundBars, atMs: Milliseconds): FoundBars {
  return withPickup(found, nearestBeat(found, atMs))
}

/** A beat is put somewhere else; it stays between its neighbours. */
export function moveBeat(found: FoundBars, beat: number, toMs: Milliseconds): FoundBars {
  const { beatsMs } = found
  const earliest = (beatsMs[beat - 1] ?? Number.NEGATIVE_INFINITY) + shortestBeatMs
  const latest = (beatsMs[beat + 1] ?? Number.POSITIVE_INFINITY) - shortestBeatMs
  if (beatsMs[beat] === undefined || earliest > latest) return found
  return {
    ...found,
    beatsMs: beatsMs.map((beatMs, index) =>
      index === beat ? Math.max(earliest, Math.min(latest, toMs)) : beatMs,
    ),
  }
}

/** The beat nearest to a moment. */
export function nearestBeat({ beatsMs }: FoundBars, atMs: Milliseconds): number {
  let best = 0
  for (const [beat, beatMs] of beatsMs.entries())
    if (Math.abs(beatMs - atMs) < Math.abs(beatsMs[best]! - atMs)) best = beat
  return best
}

/** Moments of bar lines. */
export function barLinesMs({ beatsMs, beatsPerBar, pickupBeats }: FoundBars): Milliseconds[] {
  return beatsMs.filter((_, beat) => beat % beatsPerBar === pickupBeats)
}

/** A person has said so: nothing about it is guessed any more. */
function withPickup(found: FoundBars, firstBarLine: number): FoundBars {
  return { ...found, pickupBeats: firstBarLine % found.beatsPerBar, confidence: 1 }
}
