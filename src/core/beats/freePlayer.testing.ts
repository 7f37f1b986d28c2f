import { gaussian, randomSource } from '../event/randomSource.testing'
import type { Milliseconds } from '../time/units'
import type { TimedNote } from './strokes'

/** Music for a player without a click: notes in quarters, with the quarters at which beats and bars are. */
export interface FreeMusic {
  readonly notes: readonly {
    readonly onsetQuarters: number
    readonly endQuarters: number
    readonly key: number
  }[]
  readonly beatQuarters: number
  readonly firstBarLineQuarters: number
  readonly barQuarters: number
}

export interface FreePerformance {
  readonly notes: readonly TimedNote[]
  readonly beatsMs: readonly Milliseconds[]
  readonly barLinesMs: readonly Milliseconds[]
}

/**
 * Plays without a click, for tests: the tempo swells by 5 to 8 % over some bars and drifts, hands slip, lengths and force are the
 * player's own. It shares no assumption with what finds the bars: its tempo is a continuous curve, not one length a beat.
 */
export function playFreely(music: FreeMusic, seed: number): FreePerformance {
  const random = randomSource(seed)
  const beatsPerMinute = 66 + 74 * random()
  const [swell, periodBeats, phase] = [0.05 + 0.03 * random(), 8 + 20 * random(), 2 * Math.PI * random()]
  const [driftShare, driftBeats] = [0.08 * random(), 60 + 60 * random()]
  const slipMs = 8 + 8 * random()
  const startMs = 3000 * random()
  const lastQuarters = Math.max(...music.notes.map(({ onsetQuarters }) => onsetQuarters))
  // Time is added up in small steps along the curve of the tempo.
  const step = 1 / 48
  const timesMs = [startMs]
  for (let quarters = 0; quarters < lastQuarters + 8; quarters += step) {
    const beats = quarters / music.beatQuarters
    const slower =
      1 +
      swell * Math.sin(phase + (2 * Math.PI * beats) / periodBeats) +
      driftShare * Math.sin((2 * Math.PI * beats) / driftBeats)
    timesMs.push(timesMs.at(-1)! + ((60_000 / beatsPerMinute) * slower * step) / music.beatQuarters)
  }
  const at = (quarters: number) => {
    const place = Math.max(0, quarters) / step
    const before = Math.floor(place)
    const [from, to] = [timesMs[before]!, timesMs[before + 1] ?? timesMs[before]!]
    return from + (to - from) * (place - before)
  }
  const notes = music.notes
    .map(({ onsetQuarters, endQuarters, key }): TimedNote => {
      const onsetMs = at(onsetQuarters) + slipMs * gaussian(random) * 0.8
      const heldMs = (at(endQuarters) - at(onsetQuarters)) * (0.65 + 0.4 * random())
      const velocity = Math.round(70 + 9 * gaussian(random) + 10 * Math.sin(onsetQuarters / 5))
      return {
        onsetMs: Math.max(0, onsetMs),
        endMs: Math.max(0, onsetMs) + Math.max(40, heldMs),
        key,
        velocity: Math.min(127, Math.max(15, velocity)),
      }
    })
    .sort((a, b) => a.onsetMs - b.onsetMs || a.key - b.key)
  const first = Math.min(...music.notes.map(({ onsetQuarters }) => onsetQuarters))
  const every = (from: number, by: number): Milliseconds[] => {
    const times: Milliseconds[] = []
    for (let quarters = from; quarters <= lastQuarters + 1e-6; quarters += by)
      if (quarters >= first - 1e-6) times.push(at(quarters))
    return times
  }
  const { beatQuarters, firstBarLineQuarters, barQuarters } = music
  return {
    notes,
    beatsMs: every(firstBarLineQuarters % beatQuarters, beatQuarters),
    barLinesMs: every(firstBarLineQuarters, barQuarters),
  }
}

/** F1 of moments found within 70 ms of the true ones, the usual tolerance (S. Dixon, 2001). */
export function momentsF1(found: readonly Milliseconds[], meant: readonly Milliseconds[]): number {
  let [hits, next] = [0, 0]
  for (const moment of meant) {
    while (next < found.length && found[next]! < moment - 70) next++
    if (next < found.length && found[next]! <= moment + 70) {
      hits++
      next++
    }
  }
  return found.length + meant.length === 0 ? 1 : (2 * hits) / (found.length + meant.length)
}
