import { firstIndex } from '../../time/firstIndex'
import type { Milliseconds, Ticks } from '../../time/units'
import type { Beat, BeatGrid } from './beats'
import { stepTicks } from './onsets'
import { endWeights } from './weights'

/** A note whose written onset is decided; its end is not yet. */
export interface OpenNote {
  readonly writtenOnsetTicks: Ticks
  readonly playedOnsetTicks: Ticks
  readonly playedEndTicks: Ticks
  readonly key: number
}

/**
 * Decides the written ends of the notes of one staff.
 *
 * A player holds a note for some part of its written value (the gate): the part most usual in this performance is
 * found first, and every end is judged against it. Ending where the next note of the staff begins is the likeliest,
 * then on a beat, then on a division; ends go only where the beat's own grid has a step, so that what is written can be
 * notated. The notes of a chord end together unless they clearly did not.
 *
 * @param notes in order of written onset
 * @returns the written end of each note, later than its onset
 */
export function decideEnds(
  notes: readonly OpenNote[],
  beats: readonly Beat[],
  grids: readonly BeatGrid[],
  deviationMs: Milliseconds,
  biasMs: Milliseconds,
): Ticks[] {
  const onsets = [...new Set(notes.map((note) => note.writtenOnsetTicks))].sort((a, b) => a - b)
  const nextOnset = new Map(onsets.map((onset, index) => [onset, onsets[index + 1]]))
  const overlapCost = usualOverlapCost(notes, nextOnset, beats)
  /** Calls `visit` with every place where the note may end and the cost of that; a place may come twice. */
  const eachEnd = (note: OpenNote, gate: number, visit: (ticks: Ticks, cost: number) => void): void => {
    const onset = note.writtenOnsetTicks
    const next = nextOnset.get(onset)
    const own = beatIndexAt(beats, onset)
    const msPerTick = beats[own]!.msPerTick
    const biasTicks = biasMs / msPerTick
    const heldTicks = Math.max(
      note.playedEndTicks - biasTicks - onset,
      (note.playedEndTicks - note.playedOnsetTicks) / 2,
      1,
    )
    const targetTicks = onset + heldTicks / gate
    const spreadMs = Math.hypot(
      endWeights.spreadOfOnsets * deviationMs,
      endWeights.spreadOfLength * heldTicks * msPerTick,
    )
    const weigh = (ticks: Ticks, unusual: number) => {
      if (ticks <= onset) return
      const ratio = ((ticks - targetTicks) * msPerTick) / spreadMs
      const far = Math.min((ratio * ratio) / 2, endWeights.farCost + Math.abs(ratio))
      visit(ticks, far + unusual + (next !== undefined && ticks > next ? overlapCost : 0))
    }
    const middle = beatIndexAt(beats, targetTicks)
    const lastBeat = Math.min(beats.length - 1, Math.max(middle, own) + 1)
    for (let index = Math.max(own, middle - 1); index <= lastBeat; index++) {
      const beat = beats[index]!
      const grid = grids[index]!
      for (let step = 0; step <= grid.divisions; step++)
        weigh(stepTicks(beat, grid, step), endingCost(grid, step))
    }
    if (next !== undefined) weigh(next, 0)
  }
  const gate = usualGate(notes, (note, tried) => {
    let least = Number.POSITIVE_INFINITY
    eachEnd(note, tried, (_, cost) => {
      if (cost < least) least = cost
    })
    return least
  })
  const nextSameKey = nextOnsetOfSameKey(notes)
  const ends: Ticks[] = new Array(notes.length)

  for (let first = 0; first < notes.length; ) {
    let last = first
    while (last + 1 < notes.length && notes[last + 1]!.writtenOnsetTicks === notes[first]!.writtenOnsetTicks)
      last++
    const costsOf = notes.slice(first, last + 1).map((note) => {
      const costs = new Map<Ticks, number>()
      eachEnd(note, gate, (ticks, cost) => {
        const known = costs.get(ticks)
        if (known === undefined || cost < known) costs.set(ticks, cost)
      })
      return costs
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
      ends[index] = limit !== undefined ? Math.min(end, limit) : end
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

/**
 * The part of the written value that this player usually holds a note: the one under which the ends of the whole
 * performance fall best on places where notes usually end. What most players do is believed beforehand, so that a
 * few odd notes (staccato, notes before rests) do not decide it.
 */
function usualGate(notes: readonly OpenNote[], costOf: (note: OpenNote, gate: number) => number): number {
  const stride = Math.max(1, Math.floor(notes.length / endWeights.gateSampleNotes))
  const sample = notes.filter((_, index) => index % stride === 0)
  const { least, most, step, usual, spread, belief, unknown } = endWeights.gate
  let best = { gate: unknown as number, cost: Number.POSITIVE_INFINITY }
  for (let gate: number = least; gate <= most + step / 40; gate += step) {
    let cost = belief * ((gate - usual) / spread) ** 2
    for (const note of sample) cost += costOf(note, gate)
    if (cost < best.cost) best = { gate, cost }
  }
  return best.gate
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
