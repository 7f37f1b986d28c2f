import { firstIndex } from '../../time/firstIndex'
import type { Ticks } from '../../time/units'
import type { Beat, BeatGrid } from './beats'
import { type DecidedOnsets, stepTicks } from './onsets'
import { type EndCandidate, endCost, findTouch, type HeldNote, isShort, restClassOf } from './touch'
import { endWeights } from './weights'

/** A note whose written onset is decided; its end is not yet. */
export interface OpenNote {
  readonly writtenOnsetTicks: Ticks
  readonly playedOnsetTicks: Ticks
  readonly playedEndTicks: Ticks
  readonly key: number
}

/** Where a note ends on the page, and whether it was played shorter than that, by touch. */
export interface DecidedEnd {
  readonly endTicks: Ticks
  readonly isShort: boolean
}

/** A place where a note may end. */
interface PossibleEnd extends EndCandidate {
  readonly ticks: Ticks
}

/**
 * Decides the written ends of the notes of one staff.
 *
 * A player holds a note for some part of its written value, more or less by touch: how this performance is touched is found
 * first, and every end is judged against it. Ending where the next note of the staff begins is the likeliest,
 * then on a beat, then on a division; ends go only where the beat's own grid has a step, so that what is written can be
 * notated. The notes of a chord end together unless they clearly did not.
 *
 * @param notes in order of written onset
 * @param readsTouch whether notes may be played shorter than they are written
 * @returns for each note its written end, later than its onset
 */
export function decideEnds(
  notes: readonly OpenNote[],
  beats: readonly Beat[],
  { grids, deviationMs, biasMs }: Pick<DecidedOnsets, 'grids' | 'deviationMs' | 'biasMs'>,
  readsTouch: boolean,
): DecidedEnd[] {
  const onsets = [...new Set(notes.map((note) => note.writtenOnsetTicks))].sort((a, b) => a - b)
  const nextOnset = new Map(onsets.map((onset, index) => [onset, onsets[index + 1]]))
  const overlapCost = usualOverlapCost(notes, nextOnset, beats)
  const errorMs = endWeights.spreadOfOnsets * deviationMs
  const candidatesOf = (note: OpenNote): HeldNote<PossibleEnd> => {
    const onset = note.writtenOnsetTicks
    const next = nextOnset.get(onset)
    const own = beatIndexAt(beats, onset)
    const { msPerTick, lengthTicks } = beats[own]!
    const heldTicks = Math.max(
      note.playedEndTicks - biasMs / msPerTick - onset,
      (note.playedEndTicks - note.playedOnsetTicks) / 2,
      1,
    )
    const costs = new Map<Ticks, number>()
    const add = (ticks: Ticks, unusual: number) => {
      const cost = ticks === next ? 0 : unusual + (next !== undefined && ticks > next ? overlapCost : 0)
      const known = costs.get(ticks)
      if (ticks > onset && (known === undefined || cost < known)) costs.set(ticks, cost)
    }
    const middle = beatIndexAt(beats, onset + heldTicks)
    const lastBeat = Math.min(beats.length - 1, Math.max(middle, own) + 1)
    for (let index = Math.max(own, middle - 1); index <= lastBeat; index++) {
      const beat = beats[index]!
      const grid = grids[index]!
      for (let step = 0; step <= grid.divisions; step++)
        add(stepTicks(beat, grid, step), endingCost(grid, step))
    }
    if (next !== undefined) add(next, 0)
    return {
      heldMs: heldTicks * msPerTick,
      restClass: next === undefined ? null : restClassOf((next - onset) / lengthTicks),
      candidates: [...costs].map(([ticks, cost]) => ({
        ticks,
        lengthMs: (ticks - onset) * msPerTick,
        isBefore: next !== undefined && ticks < next,
        cost,
      })),
    }
  }
  const stride = Math.max(1, Math.floor(notes.length / endWeights.touchSampleNotes))
  const sample = notes.filter((_, index) => index % stride === 0)
  const touch = findTouch(sample.map(candidatesOf), errorMs, readsTouch)
  const nextSameKey = nextOnsetOfSameKey(notes)
  const ends: DecidedEnd[] = new Array(notes.length)

  for (let first = 0; first < notes.length; ) {
    let last = first
    while (last + 1 < notes.length && notes[last + 1]!.writtenOnsetTicks === notes[first]!.writtenOnsetTicks)
      last++
    const heldNotes: HeldNote<PossibleEnd>[] = []
    const costsOf = notes.slice(first, last + 1).map((note) => {
      const held = candidatesOf(note)
      heldNotes.push(held)
      return new Map(
        held.candidates.map((candidate) => [candidate.ticks, endCost(touch, held, candidate, errorMs)]),
      )
    })
    const alone = costsOf.map(cheapest)
    const shared = new Map<Ticks, number>()
    for (const ticks of costsOf[0]!.keys())
      if (costsOf.every((costs) => costs.has(ticks)))
        shared.set(
          ticks,
          costsOf.reduce((sum, costs) => sum + costs.get(ticks)!, 0),
        )
    const together = shared.size > 0 ? cheapest(shared) : undefined
    const apartCost = alone.reduce((sum, best) => sum + best.cost, 0)
    const apartReserve = endWeights.apartForEachNote * (costsOf.length - 1)
    const endTogether = together !== undefined && together.cost - apartCost < apartReserve + 1e-9
    for (let index = first; index <= last; index++) {
      const end = endTogether ? together.ticks : alone[index - first]!.ticks
      const limit = nextSameKey[index]
      const endTicks = limit !== undefined ? Math.min(end, limit) : end
      const held = heldNotes[index - first]!
      const lengthMs =
        held.candidates.find(({ ticks }) => ticks === end)!.lengthMs *
        ((endTicks - notes[index]!.writtenOnsetTicks) / (end - notes[index]!.writtenOnsetTicks))
      ends[index] = { endTicks, isShort: isShort(touch, held.heldMs, lengthMs, errorMs) }
    }
    first = last + 1
  }
  return ends
}

function cheapest(costs: ReadonlyMap<Ticks, number>): { ticks: Ticks; cost: number } {
  let best = { ticks: 0, cost: Number.POSITIVE_INFINITY }
  for (const [ticks, cost] of costs) if (cost < best.cost) best = { ticks, cost }
  return best
}

function nextOnsetOfSameKey(notes: readonly OpenNote[]): (Ticks | undefined)[] {
  const next: (Ticks | undefined)[] = new Array(notes.length)
  const upcoming = new Map<number, Ticks>()
  for (let index = notes.length - 1; index >= 0; index--) {
    const { key, writtenOnsetTicks } = notes[index]!
    const following = upcoming.get(key)
    next[index] = following !== undefined && following > writtenOnsetTicks ? following : undefined
    upcoming.set(key, writtenOnsetTicks)
  }
  return next
}

/** Ending on a beat is usual, on its half less so, on a deeper division least. */
function endingCost(grid: BeatGrid, step: number): number {
  if (step === 0 || step === grid.divisions) return endWeights.onBeat
  if (step * 2 === grid.divisions) return endWeights.onHalf
  return grid.kind === 'binary' ? endWeights.onBinaryStep : endWeights.onTupletStep
}

/** Overlapping notes are natural where the player does it often (two lines in one hand, a pedal), odd elsewhere. */
function usualOverlapCost(
  notes: readonly OpenNote[],
  nextOnset: ReadonlyMap<Ticks, Ticks | undefined>,
  beats: readonly Beat[],
): number {
  let overlapping = 0
  let count = 0
  for (const note of notes) {
    const next = nextOnset.get(note.writtenOnsetTicks)
    if (next === undefined) continue
    count++
    const beyondMs = (note.playedEndTicks - next) * beats[beatIndexAt(beats, next)]!.msPerTick
    if (beyondMs > endWeights.overlapMs) overlapping++
  }
  const share = (overlapping + 1) / (count + 4)
  return Math.min(endWeights.mostOverlap, Math.max(endWeights.leastOverlap, -Math.log(share)))
}

/** Index of the beat that holds a position; the nearest one outside the piece. */
export function beatIndexAt(beats: readonly Beat[], tick: Ticks): number {
  return Math.max(0, firstIndex(beats.length, (index) => beats[index]!.startTicks > tick) - 1)
}
