import type { NoteId } from '../../event/note'
import { firstIndex } from '../../time/firstIndex'
import type { Measure } from '../../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import { layOutVoice } from '../measureLayout'
import { placeNow } from '../placeNow'
import type { WrittenNote } from '../rhythm/rhythm'
import { noteValueOf } from '../values'
import type { StaffVoice, VoiceChord } from '../voices'
import { type AmendmentOf, byNote, type Misfit, type NoteAmendment } from './amendment'

/** Notes with their places and lengths as they were told by hand, and those that do not fit. */
export interface AmendedTimes {
  /** In order of onset, then key. */
  readonly written: readonly WrittenNote[]
  /** Notes that are written as the end of others, by a tie. */
  readonly tied: ReadonlyMap<NoteId, readonly NoteId[]>
  readonly misfits: readonly Misfit[]
}

/**
 * Puts notes where they were told to be written, and ties those that were told to be one.
 *
 * @param written in order of onset, then key
 * @param stepTicks the smallest value of the page: what is moved by it is moved there
 */
export function amendTimes(
  written: readonly WrittenNote[],
  amendments: readonly NoteAmendment[],
  stepTicks: Ticks,
): AmendedTimes {
  const times = byNote(amendments, 'time')
  const ties = byNote(amendments, 'tie')
  if (times.size === 0 && ties.size === 0) return { written, tied: new Map(), misfits: [] }
  const misfits: Misfit[] = []
  const placed = written.map((each) => {
    const told = times.get(each.note.id)
    if (!told) return each
    const onsetTicks = placeNow(told, each.note.onsetTicks, stepTicks)
    if (onsetTicks === null) {
      misfits.push({ amendment: told, why: 'the note would stand before the beginning' })
      return each
    }
    // How long it was held says nothing against a length that was told.
    return { ...each, onsetTicks, endTicks: onsetTicks + told.durationTicks, isShort: false }
  })
  const sorted =
    times.size === 0 ? placed : placed.sort((a, b) => a.onsetTicks - b.onsetTicks || a.note.key - b.note.key)
  return ties.size === 0 ? { written: sorted, tied: new Map(), misfits } : tiedTogether(sorted, ties, misfits)
}

/** Nearer than this to the end of a note, the next of its key is its continuation. */
const widestGapTicks: Ticks = TICKS_PER_QUARTER

function tiedTogether(
  written: readonly WrittenNote[],
  ties: ReadonlyMap<NoteId, AmendmentOf<'tie'>>,
  misfits: readonly Misfit[],
): AmendedTimes {
  const gone = new Set<NoteId>()
  const tied = new Map<NoteId, NoteId[]>()
  const failed: Misfit[] = []
  const joined = [...written]
  for (const [index, first] of written.entries()) {
    if (!ties.has(first.note.id) || gone.has(first.note.id)) continue
    let whole = joined[index]!
    // A chain of ties is one note.
    for (let amendment = ties.get(first.note.id); amendment; ) {
      const next = written
        .slice(index + 1)
        .find(
          ({ note, onsetTicks }) =>
            note.key === first.note.key && onsetTicks > whole.onsetTicks && !gone.has(note.id),
        )
      if (!next || next.onsetTicks > whole.endTicks + widestGapTicks) {
        failed.push({ amendment, why: 'no note of the same pitch follows it' })
        break
      }
      gone.add(next.note.id)
      tied.set(first.note.id, [...(tied.get(first.note.id) ?? []), next.note.id])
      whole = {
        ...whole,
        endTicks: Math.max(whole.endTicks, next.endTicks),
        cuts: [...(whole.cuts ?? []), next.onsetTicks],
      }
      amendment = ties.get(next.note.id)
    }
    joined[index] = whole
  }
  return {
    written: joined.filter(({ note }) => !gone.has(note.id)),
    tied,
    misfits: [...misfits, ...failed],
  }
}

/**
 * Places told by hand that no values can be written for beside the other notes of their line: thirds among quarters of one beat.
 *
 * @returns the notes whose bars cannot be written as they are
 */
export function unwritable(
  staves: readonly (readonly StaffVoice[])[],
  measures: readonly Measure[],
  told: ReadonlyMap<NoteId, unknown>,
): ReadonlySet<NoteId> {
  const found = new Set<NoteId>()
  if (told.size === 0) return found
  const isTold = ({ notes }: VoiceChord) => notes.some(({ note }) => told.has(note.id))
  for (const lines of staves)
    for (const { chords } of lines) {
      const bars = new Set(chords.filter(isTold).flatMap((chord) => barsOf(chord, measures)))
      for (const measure of bars) {
        const within = chords.filter((chord) => isWithin(chord, measure))
        const isWritable = layOutVoice(within, measure).every(
          ({ writtenTicks }) => noteValueOf(writtenTicks) !== undefined,
        )
        if (isWritable) continue
        for (const { notes } of within)
          for (const { note } of notes) if (told.has(note.id)) found.add(note.id)
      }
    }
  return found
}

function isWithin({ onsetTicks, endTicks }: VoiceChord, { startTicks, lengthTicks }: Measure): boolean {
  return onsetTicks < startTicks + lengthTicks && endTicks > startTicks
}

function barsOf(chord: VoiceChord, measures: readonly Measure[]): Measure[] {
  const first = firstIndex(measures.length, (index) => measures[index]!.startTicks > chord.onsetTicks) - 1
  const last = firstIndex(measures.length, (index) => measures[index]!.startTicks >= chord.endTicks)
  return measures.slice(Math.max(0, first), last)
}
