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

/** An open project of this tab. */
interface OpenPiece {
  /** Ends what it records and stores everything. */
  store(): Promise<void>
  isRecording(): boolean
}

const open = new Set<OpenPiece>()

/** A session says how it stores everything. @returns how to take that back */
export function storesBy(piece: OpenPiece): () => void {
  open.add(piece)
  return () => open.delete(piece)
}

/** Whether any open project of this tab records. */
export const isAnythingRecorded = () => [...open].some((piece) => piece.isRecording())

/** Resolves when every open project has ended what it records and has stored everything. */
export async function everythingStored(): Promise<void> {
  await Promise.allSettled([...open].map((piece) => piece.store()))
  await whenLeft()
}
