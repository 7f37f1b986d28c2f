import { isHolding, takeHolding } from './database'

/**
 * The number under which this tab has a project: shown with everything that is written, so that a tab that slept while another one took
 * the project writes nothing.
 */
export interface Holding {
  /** The project is this tab's from now on. */
  begin(): void
  /** Null where it is not; taken anew where storage failed. */
  number(): Promise<number | null>
  /** As far as it is known now: a page that is going cannot wait. */
  known(): number | null
  /** Whether no other tab has taken the project since. */
  isOurs(): Promise<boolean>
}

export function createHolding(projectId: string): Holding {
  let isBegun = false
  let taking: Promise<number> | null = null
  let known: number | null = null

  function take(): Promise<number> {
    taking ??= takeHolding(projectId).then(
      (number) => {
        known = number
        return number
      },
      (error) => {
        taking = null
        throw error
      },
    )
    return taking
  }
  const number = async () => (isBegun ? take() : null)
  return {
    begin() {
      isBegun = true
      // A failure comes back from whoever writes.
      take().catch(() => undefined)
    },
    number,
    known: () => known,
    async isOurs() {
      const own = await number()
      return own === null || isHolding(projectId, own)
    },
  }
}
