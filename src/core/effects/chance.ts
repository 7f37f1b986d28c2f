/**
 * A number in [0, 1) that depends only on the seed and the counters, never on the order of calls: an edit in bar 9 does not
 * throw the dice of bar 3 again. The mixing is the finaliser of MurmurHash3 (Austin Appleby, public domain).
 *
 * @example chance(7, onsetTicks, key) // always the same for the same note
 */
export function chance(seed: number, ...counters: number[]): number {
  let hash = (seed ^ 0x9e3779b9) >>> 0
  for (const counter of counters) {
    hash = Math.imul(hash ^ (counter >>> 0), 0x85ebca6b)
    hash ^= hash >>> 13
    hash = Math.imul(hash, 0xc2b2ae35)
    hash ^= hash >>> 16
  }
  hash = Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d)
  hash ^= hash >>> 12
  return (hash >>> 0) / 4294967296
}

/** A whole number between two bounds, both included. */
export function chanceBetween(low: number, high: number, seed: number, ...counters: number[]): number {
  return low + Math.floor(chance(seed, ...counters) * (high - low + 1))
}
