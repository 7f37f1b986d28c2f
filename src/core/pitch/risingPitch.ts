/**
 * Where a pitch that rises is going: voices, and instruments that are blown or bowed, reach for a note from beneath. What they reach for is
 * told by how fast they come nearer. Near the middle of a key it is that key: vibrato rises as well.
 */
export class RisingPitch {
  private firstPlace = Number.NaN
  private firstMs = 0
  private lastPlace = Number.NaN

  /**
   * @param place in keys; NaN when no pitch is heard
   * @param timeMs the middle of the window it was heard through
   * @returns by how many keys it goes on to rise, at most to the next key; 0 where it stands, falls, or is near enough to one
   */
  goesOnBy(place: number, timeMs: number): number {
    const isTheSame = Math.abs(place - this.lastPlace) < jumpKeys
    this.lastPlace = place
    if (!isTheSame) {
      this.firstPlace = place
      this.firstMs = timeMs
      return 0
    }
    const risenKeys = place - this.firstPlace
    const keysToTheMs = risenKeys / Math.max(1, timeMs - this.firstMs)
    if (risenKeys < leastKeys || keysToTheMs < leastKeysToTheMs) return 0
    if (Math.abs(place - Math.round(place)) < nearKeys) return 0
    return Math.min(Math.ceil(place) - place, keysToTheMs * nearerByAThirdMs)
  }
}

/** What is farther from where the pitch was is another pitch. */
const jumpKeys = 0.35
/** A pitch that rises by less stands. */
const leastKeys = 0.005
const leastKeysToTheMs = 0.002
const nearerByAThirdMs = 50
const nearKeys = 0.3
