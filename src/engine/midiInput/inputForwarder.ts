import type { Milliseconds } from '@/core/time/units'
import type { SourceEvent } from '../protocol'

/** Events that come faster than this one after the other are a burst. */
const burstGapMs = 4

/** More than this in one message would keep the engine from everything else for too long. */
const mostTogether = 200

/** How a thread tells time and comes back to itself; in tests, plain objects. */
export interface ForwarderThread {
  nowMs(): Milliseconds
  /** Has work done behind everything that has already arrived. */
  later(work: () => void): void
  close(): void
}

/** A message to oneself stands behind those that have already arrived. */
export function messageThread(): ForwarderThread {
  const { port1, port2 } = new MessageChannel()
  let work: (() => void) | null = null
  port1.onmessage = () => work?.()
  return {
    nowMs: () => performance.now(),
    later(next) {
      work = next
      port2.postMessage(null)
    },
    close: () => port1.close(),
  }
}

/**
 * Forwards what sources send: a single event at once; in a burst, as after the page was busy, all that have already arrived
 * together, so that the engine's queue never fills with thousands of small messages. The order stays.
 */
export class InputForwarder {
  private waiting: SourceEvent[] = []
  private lastMs = Number.NEGATIVE_INFINITY

  constructor(
    private readonly send: (events: readonly SourceEvent[]) => void,
    private readonly thread: ForwarderThread = messageThread(),
  ) {}

  readonly forward = (event: SourceEvent): void => {
    const nowMs = this.thread.nowMs()
    const isBurst = nowMs - this.lastMs < burstGapMs
    this.lastMs = nowMs
    if (this.waiting.length === 0 && !isBurst) {
      this.send([event])
      return
    }
    if (this.waiting.length === 0) this.thread.later(() => this.flush())
    this.waiting.push(event)
  }

  /** Hands over what waits, so that what is said next comes after it. */
  flush(): void {
    const events = this.waiting
    this.waiting = []
    for (let first = 0; first < events.length; first += mostTogether)
      this.send(events.slice(first, first + mostTogether))
  }

  close(): void {
    this.flush()
    this.thread.close()
  }
}
