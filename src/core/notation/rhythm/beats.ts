import { beatUnitTicks, isCompound, type Measure } from '../../time/meterMap'
import type { TempoMap } from '../../time/tempoMap'
import { type Milliseconds, TICKS_PER_QUARTER, type Ticks } from '../../time/units'

/** A way of dividing a beat: in `divisions` equal steps. */
export interface BeatGrid {
  readonly kind: 'binary' | 'triplet' | 'sextuplet'
  readonly divisions: number
}

/** One counted beat of the piece with the grids it may be divided by. */
export interface Beat {
  readonly startTicks: Ticks
  readonly lengthTicks: Ticks
  readonly msPerTick: number
  readonly grids: readonly BeatGrid[]
}

export interface GridSettings {
  /** Denominator of the smallest plain value. */
  readonly smallestValue: number
  readonly tuplets: boolean
}

/** The beats of the measures, in order. Compound beats (dotted) are divided in their own steps only. */
export function beatsOf(measures: readonly Measure[], tempoMap: TempoMap, settings: GridSettings): Beat[] {
  const beats: Beat[] = []
  for (const measure of measures) {
    const lengthTicks = beatUnitTicks(measure)
    const grids = gridsFor(measure, lengthTicks, settings)
    for (
      let start = measure.startTicks;
      start < measure.startTicks + measure.lengthTicks;
      start += lengthTicks
    ) {
      const endTicks = Math.min(start + lengthTicks, measure.startTicks + measure.lengthTicks)
      const spanMs: Milliseconds = tempoMap.msAt(endTicks) - tempoMap.msAt(start)
      beats.push({
        startTicks: start,
        lengthTicks: endTicks - start,
        msPerTick: spanMs / (endTicks - start),
        grids,
      })
    }
  }
  return beats
}

function gridsFor(measure: Measure, beatTicks: Ticks, settings: GridSettings): BeatGrid[] {
  const smallestTicks = (TICKS_PER_QUARTER * 4) / settings.smallestValue
  const binary: BeatGrid = { kind: 'binary', divisions: Math.max(1, Math.round(beatTicks / smallestTicks)) }
  if (isCompound(measure) || !settings.tuplets) return [binary]
  const grids = [binary]
  if (beatTicks >= smallestTicks * 2) grids.push({ kind: 'triplet', divisions: 3 })
  if (beatTicks >= smallestTicks * 4) grids.push({ kind: 'sextuplet', divisions: 6 })
  return grids
}
