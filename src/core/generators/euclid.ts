/**
 * Spreads pulses over steps as evenly as they go, by Bjorklund's algorithm as in G. Toussaint, The Euclidean Algorithm
 * Generates Traditional Musical Rhythms, 2005.
 *
 * @param rotation steps that the pattern is moved to the left
 *
 * @example euclid(3, 8) // x..x..x.
 */
export function euclid(pulses: number, steps: number, rotation = 0): boolean[] {
  const count = Math.max(0, Math.min(pulses, steps))
  let groups: boolean[][] = Array.from({ length: count }, () => [true])
  let rests: boolean[][] = Array.from({ length: steps - count }, () => [false])
  // The rests are dealt out once in any case; then what is left over, until it is one group at most.
  for (let isFirst = true; groups.length > 0 && rests.length > (isFirst ? 0 : 1); isFirst = false) {
    const paired = Math.min(groups.length, rests.length)
    const joined = Array.from({ length: paired }, (_, index) => [...groups[index]!, ...rests[index]!])
    const left = groups.length > paired ? groups.slice(paired) : rests.slice(paired)
    groups = joined
    rests = left
  }
  const pattern = [...groups, ...rests].flat()
  const by = steps === 0 ? 0 : ((rotation % steps) + steps) % steps
  return [...pattern.slice(by), ...pattern.slice(0, by)]
}
