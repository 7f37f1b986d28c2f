import { type LineNote, strokesOf } from './strokes'
import { handWeights as weights } from './weights'

/** Keys that a split may lie at: everything at and above it is played by the right hand. */
const keyCount = 129

/**
 * Divides a keyboard part between two hands by a split that moves with them. Of all courses of the split over the whole piece
 * the likeliest is taken: hands reach an octave and a little more, stay near where they were, and the split lies in a gap
 * between them and moves no more than it must (dynamic programming; the shortest way through a split for each stroke).
 *
 * @returns whether each note is the right hand's, in the order the notes were given
 */
export function splitHands(notes: readonly LineNote[], togetherQuarters: number): boolean[] {
  const isRight = new Array<boolean>(notes.length).fill(true)
  if (notes.length === 0) return isRight
  const strokes = strokesOf(notes, togetherQuarters)
  let middles: Hands = { left: weights.leftMiddle, right: weights.rightMiddle }
  let places = strokes.map(() => middles)
  let splits: number[] = []
  for (let round = 0; round < weights.rounds; round++) {
    splits = bestSplits(strokes, notes, togetherQuarters, places)
    for (const [index, stroke] of strokes.entries())
      for (const note of stroke) isRight[note] = notes[note]!.key >= splits[index]!
    places = placesOfHands(strokes, notes, isRight)
    middles = places[0]!
  }
  return isRight
}

interface Hands {
  readonly left: number
  readonly right: number
}

function bestSplits(
  strokes: readonly (readonly number[])[],
  notes: readonly LineNote[],
  togetherQuarters: number,
  places: readonly Hands[],
): number[] {
  let costs = new Float64Array(keyCount)
  const back: Uint8Array[] = []
  let sounding: number[] = []
  let beforeQuarters = 0
  for (const [index, stroke] of strokes.entries()) {
    const { onsetQuarters } = notes[stroke[0]!]!
    sounding = sounding.filter((note) => notes[note]!.endQuarters > onsetQuarters + togetherQuarters)
    const moved = moveCosts(
      costs,
      weights.move / (1 + weights.moveEase * Math.max(0, onsetQuarters - beforeQuarters)),
    )
    back.push(moved.from)
    const struck = stroke.map((note) => notes[note]!)
    const held = sounding.map((note) => notes[note]!.key)
    const own = splitCosts(struck, held, places[index]!)
    costs = moved.costs
    for (let split = 0; split < keyCount; split++) costs[split]! += own[split]!
    sounding.push(...stroke)
    beforeQuarters = onsetQuarters
  }
  const splits = new Array<number>(strokes.length)
  let split = costs.indexOf(Math.min(...costs))
  for (let index = strokes.length - 1; index >= 0; index--) {
    splits[index] = split
    split = back[index]![split]!
  }
  return splits
}

/** The cheapest way to each split from any other, where moving costs so much a semitone (a distance transform). */
function moveCosts(
  costs: Float64Array,
  perSemitone: number,
): { costs: Float64Array<ArrayBuffer>; from: Uint8Array } {
  const moved = Float64Array.from(costs)
  const from = Uint8Array.from({ length: keyCount }, (_, split) => split)
  for (let split = 1; split < keyCount; split++)
    if (moved[split - 1]! + perSemitone < moved[split]!) {
      moved[split] = moved[split - 1]! + perSemitone
      from[split] = from[split - 1]!
    }
  for (let split = keyCount - 2; split >= 0; split--)
    if (moved[split + 1]! + perSemitone < moved[split]!) {
      moved[split] = moved[split + 1]! + perSemitone
      from[split] = from[split + 1]!
    }
  return { costs: moved, from }
}

function splitCosts(struck: readonly LineNote[], held: readonly number[], hands: Hands): Float64Array {
  const own = new Float64Array(keyCount)
  const all = [...struck.map(({ key }) => key), ...held].sort((a, b) => a - b)
  const chord = [...struck].sort((a, b) => a.key - b.key)
  for (let split = 0; split < keyCount; split++) {
    let below = 0
    while (below < all.length && all[below]! < split) below++
    let cost = 0
    if (below > 0) cost += spanCost(all[below - 1]! - all[0]!)
    if (below < all.length) cost += spanCost(all.at(-1)! - all[below]!)
    for (const { key } of struck) {
      const off = key < split ? key - hands.left : hands.right - key
      // Beyond its hand's middle a key is the hand's own; on the other hand's side it is not.
      const distance = Math.abs(key < split ? key - hands.left : key - hands.right)
      cost += weights.place * Math.min(distance, weights.mostPlace)
      cost += off > 0 ? weights.inwards * Math.min(off, weights.mostPlace) : 0
    }
    // In the middle of a gap rather than at its edge.
    const low = all[below - 1]
    const high = all[below]
    if (low !== undefined && high !== undefined)
      cost += weights.edge / Math.max(1, Math.min(split - low, high - split + 1))
    const cut = chord.findIndex(({ key }) => key >= split)
    if (cut > 0 && isOneChord(chord[cut - 1]!, chord[cut]!)) cost += weights.cutChord
    own[split] = cost
  }
  return own
}

/** Notes that begin together, end together and lie under one hand. */
function isOneChord(low: LineNote, high: LineNote): boolean {
  const [a, b] = [low, high].map(({ onsetQuarters, endQuarters }) => endQuarters - onsetQuarters)
  return high.key - low.key <= 12 && Math.min(a!, b!) > weights.evenLength * Math.max(a!, b!)
}

function spanCost(semitones: number): number {
  return weights.span * Math.max(0, semitones - weights.reachSemitones)
}

/** Where each hand is around each stroke: the mean of what it played, near strokes counting more. */
function placesOfHands(
  strokes: readonly (readonly number[])[],
  notes: readonly LineNote[],
  isRight: readonly boolean[],
): Hands[] {
  const both = (['left', 'right'] as const).map((hand) => {
    const own = (note: number) => isRight[note] === (hand === 'right')
    const usual = hand === 'left' ? weights.leftMiddle : weights.rightMiddle
    const run = (order: readonly number[]) => {
      const means = new Array<number>(strokes.length)
      let [sum, weight] = [usual * weights.usualWeight, weights.usualWeight]
      for (const index of order) {
        means[index] = sum / weight
        for (const note of strokes[index]!)
          if (own(note)) {
            sum = sum * weights.memory + notes[note]!.key
            weight = weight * weights.memory + 1
          }
      }
      return means
    }
    const forwards = run(strokes.map((_, index) => index))
    const backwards = run(strokes.map((_, index) => strokes.length - 1 - index))
    return forwards.map((mean, index) => (mean + backwards[index]!) / 2)
  })
  return strokes.map((_, index) => ({ left: both[0]![index]!, right: both[1]![index]! }))
}
