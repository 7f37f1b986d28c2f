/** What is done one after the other. */
export interface Turns {
  /** Does something when everything before it is done, each on the piece as the one before left it, however fast the keys come. */
  inTurn(work: () => Promise<void> | void): void
  /** Does something at once where nothing is waited for, otherwise in its turn. */
  atOnce(work: () => void): void
  /** Something is not finished: what is chosen may be another then. */
  isUnderWay(): boolean
}

/** @param problem told of what failed; the rest goes on */
export function createTurns(problem: (error: unknown) => void): Turns {
  let last: Promise<void> = Promise.resolve()
  let waiting = 0
  function inTurn(work: () => Promise<void> | void): void {
    waiting++
    last = last
      .then(work)
      .catch(problem)
      .finally(() => {
        waiting--
      })
  }
  return {
    inTurn,
    atOnce(work) {
      if (waiting > 0) inTurn(work)
      else work()
    },
    isUnderWay: () => waiting > 0,
  }
}
