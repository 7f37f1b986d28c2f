/**
 * Work that waits for a place, in fair turns: whoever asks for much waits behind whoever asks for little, since each client has one
 * turn after the other.
 */
export class FairTurns {
  private busy = 0
  /** By client; the one whose turn is next comes first. */
  private readonly waiting = new Map<string, (() => void)[]>()

  /** @param places how much is done at once */
  constructor(private readonly places: number) {}

  /** How much is at work or waits. */
  get count(): number {
    let count = this.busy
    for (const queue of this.waiting.values()) count += queue.length
    return count
  }

  /** How much of one client waits. */
  waitingOf(client: string): number {
    return this.waiting.get(client)?.length ?? 0
  }

  /** Does the work when it is its turn. */
  async run<Result>(client: string, work: () => Promise<Result>): Promise<Result> {
    if (this.busy >= this.places)
      await new Promise<void>((begin) => {
        this.waiting.set(client, [...(this.waiting.get(client) ?? []), begin])
      })
    else this.busy++
    try {
      return await work()
    } finally {
      this.next()
    }
  }

  /** The place goes to the next client, who is the last one then. */
  private next(): void {
    const first = this.waiting.entries().next()
    if (first.done) {
      this.busy--
      return
    }
    const [client, [next, ...others]] = first.value
    this.waiting.delete(client)
    if (others.length > 0) this.waiting.set(client, others)
    next!()
  }
}
