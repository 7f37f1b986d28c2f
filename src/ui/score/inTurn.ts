import type { Session } from '@/state/session'

let last: Promise<void> = Promise.resolve()
let waiting = 0

/** Something that was done on the page is not finished: what is chosen may be another then. */
export const isUnderWay = () => waiting > 0

/**
 * What is done on the page is done one after the other, each on the page and with the choice as the one before left them, however fast
 * the keys come.
 */
export function inTurn(session: Session, work: () => Promise<void> | void): void {
  waiting++
  last = last
    .then(work)
    .catch((error) =>
      session.notify(
        `That could not be done on the page: ${error instanceof Error ? error.message : error}.`,
        true,
      ),
    )
    .finally(() => {
      waiting--
    })
}
