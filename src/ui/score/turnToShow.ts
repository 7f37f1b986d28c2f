/** Lines closer together than this wait for each other. */
const apartMs = 40

let nextMs = 0

/**
 * Lines of music are shown one after the other: laying out the shapes of several at once would hold the page up. The first one
 * does not wait.
 */
export function turnToShow(): Promise<void> {
  const nowMs = performance.now()
  const turnMs = Math.max(nowMs, nextMs)
  nextMs = turnMs + apartMs
  return turnMs === nowMs ? Promise.resolve() : new Promise((resolve) => setTimeout(resolve, turnMs - nowMs))
}
