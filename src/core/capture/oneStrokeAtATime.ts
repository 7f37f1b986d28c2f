import type { PerformedMessage } from './performer'

/**
 * What several players and passes of a loop give to one port, as one pair of hands could play it: a key that is struck again while it is
 * down comes up first, and only the last release of it is sent. No release is sent for a key that is up.
 *
 * @param messages in order of time
 */
export function oneStrokeAtATime(messages: readonly PerformedMessage[]): PerformedMessage[] {
  const out: PerformedMessage[] = []
  /** How many strokes of each key have not been released yet. */
  const strokes = new Map<number, number>()
  for (const message of messages) {
    const [status, key, velocity] = message.bytes
    const kind = status & 0xf0
    if (kind !== 0x90 && kind !== 0x80) {
      out.push(message)
      continue
    }
    const address = ((status & 0x0f) << 7) | key
    const down = strokes.get(address) ?? 0
    if (kind === 0x90 && velocity > 0) {
      if (down > 0) out.push({ timeMs: message.timeMs, bytes: [0x80 | (status & 0x0f), key, 64] })
      out.push(message)
      strokes.set(address, down + 1)
    } else if (down > 0) {
      if (down === 1) out.push(message)
      strokes.set(address, down - 1)
    }
  }
  return out
}
