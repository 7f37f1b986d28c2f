import type { Note, NoteId } from '../event/note'
import { noteEndTicks } from '../event/note'
import { togetherQuartersAt } from '../separation/takeApart'
import { splitHands } from '../separation/voices/splitHands'
import type { TempoMap } from '../time/tempoMap'
import { TICKS_PER_QUARTER } from '../time/units'
import type { WrittenNote } from './rhythm/rhythm'

/** Steps from note to note in a line, and how many of them go from one staff to the other. */
export interface TornLines {
  readonly steps: number
  readonly torn: number
}

export const noneTorn: TornLines = { steps: 0, torn: 0 }

/** A step is of so many semitones at most: further apart two notes may well be two lines. */
const widestStepSemitones = 4

/** From this share of steps on, a split tears lines rather than dividing hands; so few steps say nothing. */
const tornShare = 0.06
const fewestSteps = 16

/**
 * The staff of each note by the hand that played it, found over the whole part.
 *
 * @param notes in order of onset
 */
export function handsOf(notes: readonly Note[], tempoMap: TempoMap): Map<NoteId, 1 | 2> {
  const middle = notes[notes.length >> 1]
  const together = togetherQuartersAt(middle ? tempoMap.tempoAt(middle.onsetTicks) : 120)
  const isRight = splitHands(
    notes.map((note) => ({
      onsetQuarters: note.onsetTicks / TICKS_PER_QUARTER,
      endQuarters: noteEndTicks(note) / TICKS_PER_QUARTER,
      key: note.key,
      velocity: note.velocity,
    })),
    together,
  )
  return new Map(notes.map((note, index) => [note.id, isRight[index] ? 1 : 2]))
}

/**
 * Counts the steps that lead from one staff to the other: from each note to the nearest of the stroke that begins where it ends.
 *
 * @param written in order of onset
 */
export function tornLines(written: readonly WrittenNote[], staffOf: (note: Note) => number): TornLines {
  let [steps, torn] = [0, 0]
  const byOnset = new Map<number, WrittenNote[]>()
  for (const each of written) {
    const stroke = byOnset.get(each.onsetTicks)
    if (stroke) stroke.push(each)
    else byOnset.set(each.onsetTicks, [each])
  }
  for (const { note, endTicks } of written) {
    let nearest: WrittenNote | null = null
    for (const next of byOnset.get(endTicks) ?? [])
      if (!nearest || Math.abs(next.note.key - note.key) < Math.abs(nearest.note.key - note.key))
        nearest = next
    if (!nearest || Math.abs(nearest.note.key - note.key) > widestStepSemitones) continue
    steps++
    if (staffOf(nearest.note) !== staffOf(note)) torn++
  }
  return { steps, torn }
}

/** Whether so many lines are torn that it should be said. */
export function areTorn({ steps, torn }: TornLines): boolean {
  return steps >= fewestSteps && torn > tornShare * steps
}
