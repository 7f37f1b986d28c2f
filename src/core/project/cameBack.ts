import type { Milliseconds } from '../time/units'

/** A note-on, as it was due or as it came back. */
export interface TimedKey {
  readonly timeMs: Milliseconds
  readonly channel: number
  readonly key: number
}

/** What was sent on a port beside what came back on another: whether the way there and back is whole, and how even. */
export interface CameBack {
  readonly sent: number
  readonly back: number
  /** Came back without having been sent. */
  readonly more: number
  /** Typical time for the way there and back; null: nothing came back. */
  readonly delayMs: Milliseconds | null
  /** How far nineteen of twenty lie from that at most. */
  readonly jitterMs: Milliseconds | null
}

/** Later than this it is another note; a little early, for clocks that differ. */
const longestMs: Milliseconds = 1000
const earliestMs: Milliseconds = -20

/** Each note that came back belongs to the first one of its channel and key that was sent before it and has none yet. */
export function cameBack(sent: readonly TimedKey[], heard: readonly TimedKey[]): CameBack {
  const waiting = new Map<string, Milliseconds[]>()
  const addressOf = ({ channel, key }: TimedKey) => `${channel} ${key}`
  const sorted = <Of extends TimedKey>(notes: readonly Of[]) => [...notes].sort((a, b) => a.timeMs - b.timeMs)
  for (const note of sorted(heard)) {
    const list = waiting.get(addressOf(note))
    if (list) list.push(note.timeMs)
    else waiting.set(addressOf(note), [note.timeMs])
  }
  const delays: Milliseconds[] = []
  let more = 0
  for (const note of sorted(sent)) {
    const list = waiting.get(addressOf(note)) ?? []
    while (list.length > 0 && list[0]! < note.timeMs + earliestMs) {
      list.shift()
      more++
    }
    if (list.length > 0 && list[0]! <= note.timeMs + longestMs) delays.push(list.shift()! - note.timeMs)
  }
  more += [...waiting.values()].reduce((sum, list) => sum + list.length, 0)
  const delayMs = ofShare(delays, 0.5)
  const jitterMs =
    delayMs === null
      ? null
      : ofShare(
          delays.map((delay) => Math.abs(delay - delayMs)),
          0.95,
        )
  return { sent: sent.length, back: delays.length, more, delayMs, jitterMs }
}

/** The value that a share of them does not exceed; null of none. */
function ofShare(values: readonly Milliseconds[], share: number): Milliseconds | null {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? null
}
