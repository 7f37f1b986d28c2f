/** Projects of this tab that are being left: what they still write must be there before they are opened or listed again. */
const underWay = new Map<string, Promise<void>>()

/** A session is closing. */
export function leaving(projectId: string, closed: Promise<void>): void {
  const done = closed.finally(() => {
    if (underWay.get(projectId) === done) underWay.delete(projectId)
  })
  underWay.set(projectId, done)
}

/** Resolves when nothing of a project, or of any project, is being written any more by a session that closes. */
export async function whenLeft(projectId?: string): Promise<void> {
  const wanted = projectId === undefined ? [...underWay.values()] : [underWay.get(projectId)]
  await Promise.allSettled(wanted)
}
