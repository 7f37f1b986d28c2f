import type { SourceEvent } from '../protocol'

/** Events that come faster than this one after the other are a burst. */
const burstGapMs = 4

/** More than this in one message would keep the engine from everything else for too long. */
const mostTogether = 200

/**
 * Forwards what sources send: a single event at once; in a burst, as after the page was busy, all that have already arrived
 * together, so that the engine's queue never fills with thousands of small messages. The order stays.
 */
export class InputForwarder {
  private waiting: SourceEvent[] = []
  private lastMs = Number.NEGATIVE_INFINITY
  private readonly later = new MessageChannel()

  constructor(private readonly send: (events: readonly SourceEvent[]) => void) {
    // A message to oneself stands behind those that have already arrived.
    this.later.port1.onmessage = () => this.flush()
  }

  readonly forward = (event: SourceEvent): void => {
    const nowMs = performance.now()
    const isBurst = nowMs - this.lastMs < burstGapMs
    this.lastMs = nowMs
    if (this.waiting.length === 0 && !isBurst) {
      this.send([event])
      return
    }
    if (this.waiting.length === 0) this.later.port2.postMessage(null)
    this.waiting.push(event)
  }

  private flush(): void {
    const events = this.waiting
    this.waiting = []
    for (let first = 0; first < events.length; first += mostTogether)
      this.send(events.slice(first, first + mostTogether))
  }

  close(): void {
    this.flush()
    this.later.port1.close()
  }
}
