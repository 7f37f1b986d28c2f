import { safeFileName } from '@/core/separation/splitFile'
import type { Session } from '@/state/session'
import { download } from '../controls/download'

let underWay: Promise<boolean> | null = null

/**
 * Saves everything of a piece to a file, for a moment in which storage refuses it; pressed again meanwhile, it is the same file.
 *
 * @returns whether it is saved
 */
export function rescue(session: Session): Promise<boolean> {
  underWay ??= saveTo(session).finally(() => {
    underWay = null
  })
  return underWay
}

async function saveTo(session: Session): Promise<boolean> {
  try {
    const { name, bytes } = await session.rescueFile()
    download(`${safeFileName(name)}.voice`, bytes, 'application/zip')
    return true
  } catch (error) {
    const reason = error instanceof Error ? error.message : error
    session.notify(`The piece was not saved to a file: ${reason}.`, true)
    return false
  }
}
