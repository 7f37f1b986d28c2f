/** What a file has that cannot be taken over: kinds of it, how often, and where first. */
export class ReadingProblems {
  private readonly found = new Map<string, { count: number; firstAt: string }>()

  add(kind: string, where: string): void {
    const known = this.found.get(kind)
    if (known) known.count++
    else this.found.set(kind, { count: 1, firstAt: where })
  }

  /** One sentence for each kind. */
  sentences(): string[] {
    return [...this.found].map(
      ([kind, { count, firstAt }]) =>
        `The file has ${kind}: ${count === 1 ? firstAt : `${count.toLocaleString('en')} times, first at ${firstAt}`}.`,
    )
  }
}
