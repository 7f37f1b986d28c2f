import type { FollowedEvent, FollowedFrame } from './lineFollower'

/** A message with its moment in the sound. */
export interface FollowedMessage {
  readonly timeMs: number
  readonly bytes: readonly [status: number, data1: number, data2: number]
}

/** The bend that synthesisers have unless told otherwise, in keys either way (General MIDI 1, RP-003). */
const bendKeys = 2
const middleBend = 8192
/** A bend that differs by less, about three hundredths of a key, is not sent. */
const leastBend = 128

/**
 * What is followed, as messages on channel 1. Each has the moment in the sound at which it happened, not the later one at which it was
 * known, so that a take has none of the follower's delay in it. Notes never go back in time, and each ends before the next begins.
 */
export class FollowedMidi {
  private lastNoteMs = 0
  private bend = middleBend

  constructor(private readonly doesBend: boolean) {}

  /** @param events @param frames of the same piece of sound */
  messagesOf(events: readonly FollowedEvent[], frames: readonly FollowedFrame[]): FollowedMessage[] {
    const messages: FollowedMessage[] = []
    for (const event of events) {
      const momentMs = event.kind === 'on' ? event.onsetMs : event.endMs
      const timeMs = Math.max(momentMs, this.lastNoteMs)
      this.lastNoteMs = timeMs
      if (event.kind === 'off') messages.push({ timeMs, bytes: [0x80, event.key, 64] })
      else {
        // A note begins at its key; where it goes from there is heard afterwards.
        this.bendTo(middleBend, timeMs, messages)
        messages.push({ timeMs, bytes: [0x90, event.key, event.velocity] })
      }
    }
    if (this.doesBend)
      for (const { key, place, timeMs } of frames) {
        if (key === null || place === null || Math.abs(place - key) > bendKeys) continue
        const bend = Math.round(middleBend + ((place - key) / bendKeys) * (middleBend - 1))
        if (Math.abs(bend - this.bend) >= leastBend) this.bendTo(bend, timeMs, messages)
      }
    return messages
  }

  private bendTo(bend: number, timeMs: number, messages: FollowedMessage[]): void {
    if (bend === this.bend) return
    this.bend = bend
    messages.push({ timeMs, bytes: [0xe0, bend & 127, bend >> 7] })
  }
}
