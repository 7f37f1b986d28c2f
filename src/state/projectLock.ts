/** Time for the other tab to write its last change. */
const saveMs = 800

/**
 * One tab at a time may change a project (Web Locks API, W3C). A second tab reads only, and may take over; the first
 * is told and reads only from then on.
 */
export function holdProject(projectId: string, onReadOnly: (isReadOnly: boolean) => void) {
  const name = `unbroken-voice:${projectId}`
  let letGo: (() => void) | undefined
  let isReleased = false

  const hold = (options: LockOptions): Promise<void> =>
    navigator.locks
      .request(name, options, async (lock) => {
        if (!lock) {
          onReadOnly(true)
          return
        }
        onReadOnly(false)
        await new Promise<void>((resolve) => {
          letGo = resolve
        })
      })
      .then(
        () => undefined,
        () => {
          // Another tab took over.
          if (!isReleased) onReadOnly(true)
        },
      )

  if (navigator.locks) void hold({ ifAvailable: true })
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
