import type { createLiveState } from './liveState'

/** What is said to the user: one sentence at a time, problems until they are put away. */
export function createNotices(live: ReturnType<typeof createLiveState>) {
  const notify = (text: string, isProblem = false) => live.setState({ notice: { text, isProblem } })
  const problem = (text: string) => notify(text, true)
  return {
    notify,
    problem,
    /** For what goes wrong later: says what it was about, and why. */
    saying: (what: string) => (error: unknown) =>
      problem(`${what}: ${error instanceof Error ? error.message : error}`),
    dismissNotice: () => live.setState({ notice: null }),
  }
}
