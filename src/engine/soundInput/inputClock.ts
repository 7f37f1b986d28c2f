import type { Milliseconds } from '@/core/time/units'

/** The quickest arrival in each of these tells the clock. */
const stretchMs = 250
/** So many stretches are remembered, so that it follows when two clocks drift apart. */
const mostStretches = 16
/** When an input is opened, its first sound is handed over faster than it was played: this much is not asked when there is more. */
const startingStretches = 2
/** Of all stretches, this part may have been handed over too fast, or too slowly. */
const asked = 0.3
/** Later than expected by more than this, the sound has stood still meanwhile. */
const stoodStillMs = 500

/**
 * Where the sound of an input lies on the epoch clock. Pieces of sound arrive in bursts, most of them late: the quickest of each quarter of
 * a second tell, and of these one that is neither among the quickest nor among the slowest.
 */
export class InputClock {
  /** Of each stretch, the oldest first: how much later than its place in the sound the quickest piece arrived. */
  private quickest: number[] = []
  private stretches = 0
  private stretchSince: Milliseconds = 0
  private offset = 0

  /** @param latencyMs what the device says it is late by */
  constructor(private readonly latencyMs: Milliseconds) {}

  /** @param heardMs how much sound there is with the piece that arrived */
  arrived(heardMs: Milliseconds, epochMs: Milliseconds): void {
    const offset = epochMs - heardMs
    if (this.quickest.length > 0 && offset - this.offset > stoodStillMs) {
      this.quickest = []
      this.stretches = 0
    }
    if (this.quickest.length === 0 || epochMs - this.stretchSince > stretchMs) {
      this.stretchSince = epochMs
      this.quickest.push(offset)
      this.stretches++
      if (this.quickest.length > mostStretches) this.quickest.shift()
    } else {
      const last = this.quickest.length - 1
      this.quickest[last] = Math.min(this.quickest[last]!, offset)
    }
    const forgotten = this.stretches - this.quickest.length
    const known = this.quickest.slice(Math.max(0, startingStretches - forgotten))
    const told = (known.length > 0 ? known : this.quickest).toSorted((a, b) => a - b)
    this.offset = told[Math.floor((told.length - 1) * asked)]!
  }

  /** When something was played that lies there in the sound. */
  epochMsOf(soundMs: Milliseconds): Milliseconds {
    return soundMs + this.offset - this.latencyMs
  }
}
