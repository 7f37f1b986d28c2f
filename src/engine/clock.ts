import type { Milliseconds } from '@/core/time/units'

/**
 * Milliseconds since the epoch with the precision of `performance.now()`. Every thread has its own time origin; on
 * this clock they agree.
 */
export function epochNowMs(): Milliseconds {
  return performance.timeOrigin + performance.now()
}

/** One reading of audio time and epoch time at the same moment, as heard at the output. */
export interface ClockSample {
  readonly contextSeconds: number
  readonly epochMs: Milliseconds
}
