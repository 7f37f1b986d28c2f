import type { Milliseconds } from '@/core/time/units'

/** The timers of a thread; in tests, plain objects. */
export interface ThreadTimers {
  nowMs(): Milliseconds
  after(delayMs: Milliseconds, work: () => void): void
  /** The browser slows the timers of a page that nobody sees: their lateness says nothing. */
  areSlowed(): boolean
}

export const windowTimers: ThreadTimers = {
  nowMs: () => performance.now(),
  after: (delayMs, work) => void setTimeout(work, delayMs),
  areSlowed: () => document.visibilityState === 'hidden',
}

const checkEveryMs: Milliseconds = 20
/** A timer later than this was held up by something else. */
const heldUpMs: Milliseconds = 15
/** So many timers in a row must come in time. */
const punctualInARow = 3

/**
 * Resolves when the page has been free for a moment: a thread whose timers come in time has also taken everything that its
 * ports had sent it. At most `longestMs` later.
 */
export function whenPageIsFree(
  timers: ThreadTimers = windowTimers,
  longestMs: Milliseconds = 20_000,
): Promise<void> {
  return new Promise((resolve) => {
    const startMs = timers.nowMs()
    let punctual = 0
    const check = () => {
      const beganMs = timers.nowMs()
      timers.after(checkEveryMs, () => {
        const nowMs = timers.nowMs()
        const isPunctual = timers.areSlowed() || nowMs - beganMs - checkEveryMs <= heldUpMs
        punctual = isPunctual ? punctual + 1 : 0
        if (punctual >= punctualInARow || nowMs - startMs >= longestMs) resolve()
        else check()
      })
    }
    check()
  })
}
