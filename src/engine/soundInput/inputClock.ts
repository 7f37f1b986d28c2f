import type { Milliseconds } from '@/core/time/units'

/** The quickest arrival of this long tells the clock, so that it follows when two clocks drift apart. */
const rememberedMs = 4000
/** Later than expected by more than this, the sound has stood still meanwhile. */
const stoodStillMs = 500

/**
 * Where the sound of an input lies on the epoch clock. Pieces of sound arrive in bursts, some late, none early: the quickest of them tell.
 */
export class InputClock {
  private since: Milliseconds | null = null
  private now = Number.POSITIVE_INFINITY
  private before = Number.POSITIVE_INFINITY

  /** @param latencyMs what the device says it is late by */
  constructor(private readonly latencyMs: Milliseconds) {}

  /** @param heardMs how much sound there is with the piece that arrived */
  arrived(heardMs: Milliseconds, epochMs: Milliseconds): void {
    const offset = epochMs - heardMs
    if (this.since === null || offset - Math.min(this.now, this.before) > stoodStillMs) {
      this.since = epochMs
      this.now = offset
      this.before = Number.POSITIVE_INFINITY
      return
    }
    if (epochMs - this.since > rememberedMs) {
      this.since = epochMs
      this.before = this.now
      this.now = offset
    } else this.now = Math.min(this.now, offset)
  }

  /** When something was played that lies there in the sound. */
  epochMsOf(soundMs: Milliseconds): Milliseconds {
    return soundMs + Math.min(this.now, this.before) - this.latencyMs
  }
}
