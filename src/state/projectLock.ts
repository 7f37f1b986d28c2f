/** Time for the other tab to end what it records and to write its last change. */
const saveMs = 1500

/** Time for a tab that is being closed to let go. */
const closingMs = 1200

const nameOf = (projectId: string) => `unbroken-voice:${projectId}`

/**
 * One tab at a time may change a project (Web Locks API, W3C). A second tab reads only, and may take over; the first
 * is told and reads only from then on.
 */
export function holdProject(
  projectId: string,
  tell: {
    /** The project is held here. */
    held(): void
    /** Another tab had it first. */
    refused(): void
    /** Another tab has taken it over. */
    lost(): void
  },
) {
  const name = nameOf(projectId)
  let letGo: (() => void) | undefined
  let isReleased = false

  const hold = (options: LockOptions): Promise<void> =>
    navigator.locks
      .request(name, options, async (lock) => {
        if (!lock) {
          tell.refused()
          return
        }
        // Taken from another tab, which still has a moment to store what it has: this one is read afresh, and has it then.
        if (!options.steal) tell.held()
        await new Promise<void>((resolve) => {
          letGo = resolve
        })
      })
      .then(
        () => undefined,
        () => {
          if (!isReleased) tell.lost()
        },
      )

  if (navigator.locks) void hold({ ifAvailable: true })
  else tell.held()
  return {
    /** Takes the project from the other tab, gives that one time to save, and reads it afresh. */
    takeOver() {
      void hold({ steal: true })
      setTimeout(() => location.reload(), saveMs)
    },
    release() {
      isReleased = true
      letGo?.()
    },
  }
}

/**
 * Does something to a project that no tab has open.
 *
 * @throws Error with a sentence when one has
 */
export async function withProjectToOneself<Result>(
  projectId: string,
  work: () => Promise<Result>,
): Promise<Result> {
  if (!navigator.locks) return work()
  let isHeld = false
  try {
    // A tab that was just closed lets go of it in a moment.
    return await navigator.locks.request(
      nameOf(projectId),
      { signal: AbortSignal.timeout(closingMs) },
      () => {
        isHeld = true
        return work()
      },
    )
  } catch (error) {
    if (isHeld) throw error
    throw new Error('it is open in another tab; do it there, or close it there first')
  }
}
