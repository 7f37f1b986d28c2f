import type { Milliseconds } from '../time/units'
import type { TimedStroke } from './strokes'
import { type Division, type Place, beatWeights as weights } from './weights'

const frameMs: Milliseconds = 10

/** Bounds of what is taken for a beat, and what is usual. */
export const usualBeatMs: Milliseconds = 620
const range = { shortestMs: 400, longestMs: 1000, usualMs: usualBeatMs }

/**
 * Finds beats in strokes: the likeliest way through states of a length of the beat and a place in it. A stroke is likely on the
 * beat, less on its half, third and quarter; strong strokes more than weak ones. The length changes at beats only, a little.
 *
 * Source: F. Krebs, S. Böck and G. Widmer, An efficient state-space model for joint tempo and meter tracking, ISMIR 2015, with
 * strokes in place of a sound's activations. Between strokes nothing has to be worked out, so that a state is an address.
 *
 * @param strokes in order
 * @param division what a beat is divided in: two in simple meters, three in compound ones
 */
export function trackBeats(strokes: readonly TimedStroke[], division: Division): Milliseconds[] {
  if (strokes.length === 0) return []
  const shortest = Math.max(4, Math.round(range.shortestMs / frameMs))
  const longest = Math.max(shortest, Math.round(range.longestMs / frameMs))
  const lengths = longest - shortest + 1
  const firstMs = strokes[0]!.onsetMs - longest * frameMs
  const frames = Math.ceil((strokes.at(-1)!.onsetMs - firstMs) / frameMs) + longest + 1

  // The costs of being at each place of a beat of each length, as rings: time passing moves where the ring begins.
  const rings = Array.from({ length: lengths }, (_, index) => new Float64Array(shortest + index))
  // Of the beat that begins at a frame with a length: the length of the beat before.
  const before = new Uint8Array(frames * lengths)
  // Costs of beats as they begin, to read how each ended.
  const changeCosts = Float64Array.from({ length: lengths * lengths }, (_, address) => {
    const [from, to] = [shortest + Math.floor(address / lengths), shortest + (address % lengths)]
    return weights.change * Math.abs(Math.log(to / from))
  })
  const reach = Array.from({ length: lengths }, (_, index) =>
    Math.max(1, Math.ceil((shortest + index) * weights.mostChange)),
  )
  const lengthCosts = Float64Array.from(
    { length: lengths },
    (_, index) =>
      0.5 * (Math.log(((shortest + index) * frameMs) / range.usualMs) / weights.lengthSpread) ** 2,
  )
  const placeCosts = Array.from({ length: lengths }, (_, index) => costsOfPlaces(shortest + index, division))
  let next = 0
  for (let frame = 0; frame < frames; frame++) {
    // Beats that end here hand over to beats of any near length.
    const ended = rings.map((ring) => ring[frame % ring.length]!)
    for (let to = 0; to < lengths; to++) {
      let [best, from] = [Number.POSITIVE_INFINITY, to]
      const last = Math.min(lengths - 1, to + reach[to]!)
      for (let candidate = Math.max(0, to - reach[to]!); candidate <= last; candidate++) {
        const cost = ended[candidate]! + changeCosts[candidate * lengths + to]!
        if (cost < best) [best, from] = [cost, candidate]
      }
      rings[to]![frame % rings[to]!.length] = best + weights.beat + lengthCosts[to]! * weights.length
      before[frame * lengths + to] = from
    }
    while (next < strokes.length && Math.round((strokes[next]!.onsetMs - firstMs) / frameMs) === frame) {
      const { strength } = strokes[next]!
      const isStrong = Math.min(1, strength / 2)
      for (let index = 0; index < lengths; index++) {
        const ring = rings[index]!
        const costs = placeCosts[index]!
        const start = frame % ring.length
        for (let place = 0; place < ring.length; place++) {
          const address = start - place
          ring[address < 0 ? address + ring.length : address]! +=
            (costs.strong[place]! * isStrong + costs.weak[place]! * (1 - isStrong)) * (0.5 + 0.5 * strength)
        }
      }
      next++
    }
  }
  return followBack(rings, before, frames, lengths, shortest).map((frame) => firstMs + frame * frameMs)
}

/**
 * How unlikely strokes are under beats that somebody else found, in the measure of `trackBeats`.
 *
 * @param beatsMs in order, two at least
 */
export function costOfBeats(
  strokes: readonly TimedStroke[],
  beatsMs: readonly Milliseconds[],
  division: Division,
): number {
  let cost = 0
  let beforeMs: Milliseconds | null = null
  const placeCosts = new Map<number, ReturnType<typeof costsOfPlaces>>()
  let next = 0
  for (const [beat, beatMs] of beatsMs.entries()) {
    const endMs = beatsMs[beat + 1] ?? 2 * beatMs - beatsMs[beat - 1]!
    const lengthMs = endMs - beatMs
    const frames = Math.max(1, Math.round(lengthMs / frameMs))
    let costs = placeCosts.get(frames)
    if (!costs) {
      costs = costsOfPlaces(frames, division)
      placeCosts.set(frames, costs)
    }
    cost +=
      weights.beat + weights.length * 0.5 * (Math.log(lengthMs / range.usualMs) / weights.lengthSpread) ** 2
    if (beforeMs !== null) cost += weights.change * Math.abs(Math.log(lengthMs / beforeMs)) * refinedChange
    beforeMs = lengthMs
    const isLast = beat + 1 === beatsMs.length
    for (; next < strokes.length && (isLast || strokes[next]!.onsetMs < endMs); next++) {
      const { onsetMs, strength } = strokes[next]!
      const place = (((Math.round((onsetMs - beatMs) / frameMs) % frames) + frames) % frames) as number
      const isStrong = Math.min(1, strength / 2)
      cost += (costs.strong[place]! * isStrong + costs.weak[place]! * (1 - isStrong)) * (0.5 + 0.5 * strength)
    }
  }
  return cost
}

/** Beats that were moved onto their strokes change more than the lengths they were tracked with. */
const refinedChange = 0.2

/** Costs of a stroke at each place of a beat of so many frames. */
function costsOfPlaces(length: number, division: Division): { strong: Float64Array; weak: Float64Array } {
  const { strong, weak } = weights.divided[division]
  const density = (place: number, places: readonly Place[]) => {
    let sum = weights.anywhere
    for (const { at, share } of places) {
      const away = Math.abs(place / length - at)
      const distanceMs = Math.min(away, 1 - away) * length * frameMs
      sum += share * Math.exp(-0.5 * (distanceMs / weights.spreadMs) ** 2)
    }
    return -Math.log(sum)
  }
  return {
    strong: Float64Array.from({ length }, (_, place) => density(place, strong)),
    weak: Float64Array.from({ length }, (_, place) => density(place, weak)),
  }
}

/** Frames at which beats begin, from the cheapest state at the end. */
function followBack(
  rings: readonly Float64Array[],
  before: Uint8Array,
  frames: number,
  lengths: number,
  shortest: number,
): number[] {
  let best = { cost: Number.POSITIVE_INFINITY, length: 0, begin: 0 }
  for (const [length, ring] of rings.entries())
    for (let place = 0; place < ring.length; place++) {
      const begin = frames - 1 - place
      const cost = ring[begin % ring.length]!
      if (cost < best.cost) best = { cost, length, begin }
    }
  const begins: number[] = []
  let { length, begin } = best
  while (begin >= 0) {
    begins.push(begin)
    length = before[begin * lengths + length]!
    begin -= shortest + length
  }
  return begins.reverse()
}
