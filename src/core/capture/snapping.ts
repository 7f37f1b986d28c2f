import { z } from '../border/checks'
import type { Note } from '../event/note'
import { byOnset } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'

/** How the played notes of a track are shown, heard and written; what was played stays as it is. */
export const snappingSchema = z.object({
  gridValue: z.union([z.literal(4), z.literal(8), z.literal(16), z.literal(32)]),
  /** 0: as played, 1: on the grid. */
  strength: z.number().min(0).max(1),
  /** Place of the second of two grid steps: 0.5 even, 2/3 triplet swing. */
  swing: z.number().min(0.5).max(0.75),
  tuplets: z.boolean(),
})

export type Snapping = Readonly<z.infer<typeof snappingSchema>>

/** Usual settings: sixteenths, half way. */
export const defaultSnapping: Snapping = { gridValue: 16, strength: 1, swing: 0.5, tuplets: false }

/** A triplet must fit this much better before a beat is read as one. */
const tripletAdvantage = 0.6

/**
 * The notes on their grid: a view, computed anew from what was played whenever the settings change. Only played notes
 * move, with their length kept; drawn, imported and printed ones stay. With `tuplets` each beat is taken on the grid that
 * fits its own notes better, the straight one or its triplets.
 *
 * @returns as many notes, in order of onset; each at most half a grid step from where it was (at even swing)
 */
export function snapNotes(notes: readonly Note[], snapping: Snapping): readonly Note[] {
  if (snapping.strength === 0) return notes
  const gridTicks = (TICKS_PER_QUARTER * 4) / snapping.gridValue
  const tripletBeats = snapping.tuplets ? beatsInTriplets(notes, gridTicks, snapping.swing) : null
  const snapped = notes.map((note) => {
    if (note.origin.kind !== 'played') return note
    const isTriplet = tripletBeats?.has(Math.floor(note.onsetTicks / TICKS_PER_QUARTER)) ?? false
    const target = isTriplet
      ? nearestStep(note.onsetTicks, (gridTicks * 2) / 3)
      : nearestGridTicks(note.onsetTicks, gridTicks, snapping.swing)
    const onsetTicks = Math.max(
      0,
      Math.round(note.onsetTicks + (target - note.onsetTicks) * snapping.strength),
    )
    return onsetTicks === note.onsetTicks ? note : { ...note, onsetTicks }
  })
  return snapped.sort(byOnset)
}

/** Nearest place of a grid whose every second step is moved by swing. */
export function nearestGridTicks(tick: Ticks, gridTicks: Ticks, swing: number): Ticks {
  const pairTicks = gridTicks * 2
  const pairStart = Math.floor(tick / pairTicks) * pairTicks
  const places = [pairStart, pairStart + Math.round(pairTicks * swing), pairStart + pairTicks]
  return places.reduce((best, place) => (Math.abs(place - tick) < Math.abs(best - tick) ? place : best))
}

function nearestStep(tick: Ticks, stepTicks: Ticks): Ticks {
  return Math.round(tick / stepTicks) * stepTicks
}

function beatsInTriplets(notes: readonly Note[], gridTicks: Ticks, swing: number): Set<number> {
  const errors = new Map<number, { straight: number; triplet: number }>()
  for (const note of notes) {
    if (note.origin.kind !== 'played') continue
    const beat = Math.floor(note.onsetTicks / TICKS_PER_QUARTER)
    const sum = errors.get(beat) ?? { straight: 0, triplet: 0 }
    sum.straight += (nearestGridTicks(note.onsetTicks, gridTicks, swing) - note.onsetTicks) ** 2
    sum.triplet += (nearestStep(note.onsetTicks, (gridTicks * 2) / 3) - note.onsetTicks) ** 2
    errors.set(beat, sum)
  }
  return new Set(
    [...errors]
      .filter(([, { straight, triplet }]) => triplet < straight * tripletAdvantage)
      .map(([beat]) => beat),
  )
}
