import type { Milliseconds } from '../../time/units'
import { touchWeights as weights } from './weights'

/** A way of holding notes, and how often it is used. */
export interface TouchKind {
  readonly share: number
  /** The part of its written value that a note is held. */
  readonly gate: number
  readonly spread: number
}

/** How one player plays one piece. */
export interface Touch {
  /** All ways in which notes are held, the usual one first. */
  readonly kinds: readonly TouchKind[]
  /** How often silence is written before the next note, by how far away that is (`restClassOf`). */
  readonly restShares: readonly number[]
}

/** An end that a note may have been meant to have. */
export interface EndCandidate {
  /** From the onset, as written. */
  readonly lengthMs: Milliseconds
  /** Before the next note, with it or after it. */
  readonly isBefore: boolean
  /** How unlikely that place is for an end, before what was played is looked at: a negative natural logarithm. */
  readonly cost: number
}

/** A note as it was held, with the ends it may have been meant to have. */
export interface HeldNote<Candidate extends EndCandidate = EndCandidate> {
  readonly heldMs: Milliseconds
  /** How far away the next note is; null where none follows. */
  readonly restClass: number | null
  readonly candidates: readonly Candidate[]
}

/** How far away the next note is, as a class of distances. */
export function restClassOf(beats: number): number {
  return weights.rests.findIndex(({ upToBeats }) => beats <= upToBeats)
}

/**
 * How unlikely it is that a note that was held for so long is meant to end there: a negative natural logarithm of a density by
 * millisecond.
 *
 * @param errorMs how exactly the player ends notes
 */
export function endCost(
  touch: Touch,
  { heldMs, restClass }: Pick<HeldNote, 'heldMs' | 'restClass'>,
  candidate: EndCandidate,
  errorMs: Milliseconds,
): number {
  let density = weights.strayDensity
  for (const kind of touch.kinds) density += kind.share * densityOf(kind, heldMs, candidate.lengthMs, errorMs)
  return candidate.cost - Math.log(density) - Math.log(restFactor(touch, restClass, candidate))
}

/** Whether a note of a length was likelier touched short than held in any other way this player has. */
export function isShort(
  { kinds }: Touch,
  heldMs: Milliseconds,
  lengthMs: Milliseconds,
  errorMs: Milliseconds,
): boolean {
  const of = (kind: TouchKind) => kind.share * densityOf(kind, heldMs, lengthMs, errorMs)
  const all = kinds.reduce((sum, kind) => sum + of(kind), 0) + weights.strayDensity
  return of(kinds.at(-1)!) > all / 2
}

function restFactor({ restShares }: Touch, restClass: number | null, { isBefore }: EndCandidate): number {
  if (restClass === null) return 1
  return isBefore ? restShares[restClass]! : 1 - restShares[restClass]!
}

function densityOf(
  { gate, spread }: TouchKind,
  heldMs: Milliseconds,
  lengthMs: Milliseconds,
  errorMs: Milliseconds,
): number {
  const spreadMs = Math.sqrt(errorMs * errorMs + spread * spread * lengthMs * lengthMs)
  const ratio = (heldMs - gate * lengthMs) / spreadMs
  return Math.abs(ratio) > 8 ? 0 : Math.exp((-ratio * ratio) / 2) / (spreadMs * Math.sqrt(2 * Math.PI))
}

/**
 * Finds how a player holds notes: of even, mixed and short playing, taken for granted at first and mended in rounds, the one under
 * which the ends of all notes are likeliest. A note played short is then known by how the others are played: where most notes are
 * held, a short one before a silence is a short value and a rest; where notes of all values are short, it is touch.
 *
 * @param isMixed whether notes may be held in more than the usual way
 *
 * Expectation maximisation over a mixture (A. Dempster, N. Laird and D. Rubin, 1977) from several starts.
 */
export function findTouch(notes: readonly HeldNote[], errorMs: Milliseconds, isMixed: boolean): Touch {
  let best: { touch: Touch; cost: number } | null = null
  for (const shares of isMixed ? weights.starts : [weights.evenStart]) {
    let touch: Touch = {
      kinds: weights.kinds.map(({ usualGate, spread }, index) => ({
        share: shares[index]!,
        gate: usualGate,
        spread,
      })),
      restShares: weights.rests.map(({ share }) => share),
    }
    let cost = 0
    for (let round = 0; round < weights.rounds; round++) {
      const next = improved(touch, notes, errorMs)
      touch = isMixed ? next.touch : asUsual(next.touch)
      cost = next.cost
    }
    if (!best || cost < best.cost) best = { touch, cost }
  }
  return best!.touch
}

/** Held in the usual way only, whatever part of the value that is. */
function asUsual({ kinds, restShares }: Touch): Touch {
  return { kinds: kinds.map((kind, index) => ({ ...kind, share: index === 0 ? 1 : 0 })), restShares }
}

/** One round: how much each note speaks for each kind of touch and for silence behind it, and what follows. */
function improved(
  touch: Touch,
  notes: readonly HeldNote[],
  errorMs: Milliseconds,
): { touch: Touch; cost: number } {
  const counts = new Float64Array(touch.kinds.length)
  const gateSums = new Float64Array(touch.kinds.length)
  const rests = new Float64Array(touch.restShares.length)
  const ofClass = new Float64Array(touch.restShares.length)
  let cost = priorCost(touch)
  /** Of one note: how much it speaks for each kind, and the same times the part of the value it was held. */
  const spoken = new Float64Array(touch.kinds.length)
  const spokenGates = new Float64Array(touch.kinds.length)
  for (const { heldMs, restClass, candidates } of notes) {
    let [total, before] = [1e-12, 0]
    spoken.fill(0)
    spokenGates.fill(0)
    for (const candidate of candidates) {
      const prior = Math.exp(-candidate.cost) * restFactor(touch, restClass, candidate)
      let own = prior * weights.strayDensity
      for (let kind = 0; kind < touch.kinds.length; kind++) {
        const each = touch.kinds[kind]!
        const weight = prior * each.share * densityOf(each, heldMs, candidate.lengthMs, errorMs)
        own += weight
        spoken[kind]! += weight
        spokenGates[kind]! += (weight * heldMs) / candidate.lengthMs
      }
      total += own
      if (candidate.isBefore) before += own
    }
    cost -= Math.log(total)
    for (let kind = 0; kind < touch.kinds.length; kind++) {
      counts[kind]! += spoken[kind]! / total
      gateSums[kind]! += spokenGates[kind]! / total
    }
    if (restClass === null) continue
    rests[restClass]! += before / total
    ofClass[restClass]!++
  }
  const sum = counts.reduce((all, count) => all + count, 0) + weights.shareBelief
  const kinds = touch.kinds.map(({ spread }, index) => {
    const { usualShare, usualGate, leastGate, mostGate, gateBelief } = weights.kinds[index]!
    const gate = (gateSums[index]! + gateBelief * usualGate) / (counts[index]! + gateBelief)
    return {
      share: (counts[index]! + weights.shareBelief * usualShare) / sum,
      gate: Math.max(leastGate, Math.min(mostGate, gate)),
      spread,
    }
  })
  const restShares = weights.rests.map(
    ({ share, belief }, index) => (rests[index]! + belief * share) / (ofClass[index]! + belief),
  )
  return { cost, touch: { kinds, restShares } }
}

/** How unlikely such playing is before a note of it is heard. */
function priorCost({ kinds, restShares }: Touch): number {
  let cost = 0
  for (const [index, { share, gate }] of kinds.entries()) {
    const { usualShare, usualGate, gateBelief, spread } = weights.kinds[index]!
    cost -= weights.shareBelief * usualShare * Math.log(Math.max(share, 1e-9))
    cost += (gateBelief / 2) * ((gate - usualGate) / (2 * spread)) ** 2
  }
  for (const [index, share] of restShares.entries()) {
    const usual = weights.rests[index]!
    cost -= usual.belief * (usual.share * Math.log(share) + (1 - usual.share) * Math.log(1 - share))
  }
  return cost
}
