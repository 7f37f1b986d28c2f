/** A source of numbers that gives the same ones for the same seed (mulberry32, T. Ettinger, public domain). */
export class Chanceful {
  constructor(private state: number) {}

  /** From 0 up to, not including, 1. */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0
    let mixed = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state)
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296
  }

  /** A whole number below `most`. */
  below(most: number): number {
    return Math.floor(this.next() * most)
  }

  pick<Item>(items: readonly Item[]): Item {
    return items[this.below(items.length)]!
  }
}
