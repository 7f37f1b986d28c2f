import type { Milliseconds } from '@/core/time/units'

/** How the clock goes beside the machine's time: from a moment on so many times as fast. */
interface Pace {
  readonly sinceEpochMs: Milliseconds
  readonly times: number
}

/**
 * The name of this thread, which every thread of the clock hands to those it starts. Tests of the whole program name their pages
 * `clock × 6 since 1790000000000`: a take of minutes lasts seconds there, and stamps, plans and waits all keep their places. Any other name
 * means the machine's own time.
 */
export const clockName: string = (globalThis as { readonly name?: string }).name ?? ''

const pace = paceOf(clockName)

/** @returns null for the machine's own time */
function paceOf(name: string): Pace | null {
  const told = /^clock × (\d+) since (\d+)$/.exec(name)
  return told && { times: Number(told[1]), sinceEpochMs: Number(told[2]) }
}

/** How many seconds of the clock pass in one of the machine, and so of a sound device: 1, but in tests. */
export const clockTimes = pace?.times ?? 1

/**
 * Milliseconds since the epoch with the precision of `performance.now()`. Every thread has its own time origin; on
 * this clock they agree.
 */
export function epochNowMs(): Milliseconds {
  return epochAt(performance.now())
}

/** The moment of a time stamp of this thread, as events and messages of ports have. */
export function epochAt(timeStampMs: Milliseconds): Milliseconds {
  const machineMs = performance.timeOrigin + timeStampMs
  return pace ? pace.sinceEpochMs + (machineMs - pace.sinceEpochMs) * pace.times : machineMs
}

/** The other way: a moment as a time stamp of this thread, as ports are told. */
export function timeStampAt(epochMs: Milliseconds): Milliseconds {
  const machineMs = pace ? pace.sinceEpochMs + (epochMs - pace.sinceEpochMs) / pace.times : epochMs
  return machineMs - performance.timeOrigin
}

/** Resolves when so much of the clock has passed. */
export function clockPasses(waitMs: Milliseconds): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, waitMs / clockTimes))
}

/** One reading of audio time and epoch time at the same moment, as heard at the output. */
export interface ClockSample {
  readonly contextSeconds: number
  readonly epochMs: Milliseconds
}

/** Audio time at which something must begin to be heard at a moment. */
export function contextSecondsAt(sample: ClockSample, epochMs: Milliseconds): number {
  return sample.contextSeconds + (epochMs - sample.epochMs) / 1000 / clockTimes
}
