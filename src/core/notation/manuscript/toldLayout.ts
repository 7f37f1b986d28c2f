import type { NoteId } from '../../event/note'
import type { Measure } from '../../time/meterMap'
import type { Ticks } from '../../time/units'
import type { Piece } from '../measureLayout'
import { type NoteValue, noteValueTypes } from '../score'
import { ticksOfNoteValue } from '../values'
import type { VoiceChord } from '../voices'
import { type Manuscript, pieceMarks, pieceNumbers } from './manuscript'

/** A piece as a manuscript has it: with its value, and whether a rest is printed. */
export interface ToldPiece extends Piece {
  readonly value: NoteValue
  readonly isHidden: boolean
}

/** Layouts of a manuscript, by their first note and how far the bar line lies behind its beginning. */
export type ToldLayouts = ReadonlyMap<string, readonly number[]>

export function toldLayouts({ layouts }: Pick<Manuscript, 'layouts'>): ToldLayouts {
  return new Map(
    layouts.map(({ first: [noteId, offsetTicks], pieces }) => [address(noteId, offsetTicks), pieces]),
  )
}

const address = (noteId: NoteId, offsetTicks: Ticks) => `${noteId} ${offsetTicks}`

/**
 * A line of a bar as its manuscript divides it, where that fits what the line holds now.
 *
 * @param chords those that sound in the bar, in order
 * @returns null where nothing is told, or something else stands there now
 */
export function toldLayout(
  layouts: ToldLayouts,
  chords: readonly VoiceChord[],
  measure: Measure,
): readonly ToldPiece[] | null {
  const first = chords[0]?.notes[0]
  if (first === undefined || layouts.size === 0) return null
  const numbers = layouts.get(address(first.note.id, measure.startTicks - first.onsetTicks))
  if (!numbers) return null
  const pieces: ToldPiece[] = []
  const written = new Map<VoiceChord, Ticks>()
  let position = 0
  for (let at = 0; at < numbers.length; at += pieceNumbers) {
    const [startTicks, durationTicks, type, dots, actual, normal, marks] = numbers.slice(
      at,
      at + pieceNumbers,
    ) as [Ticks, Ticks, number, NoteValue['dots'], number, number, number]
    if (startTicks !== position) return null
    position += durationTicks
    const from = measure.startTicks + startTicks
    const isRest = (marks & pieceMarks.rest) > 0
    const chord = chords.find(
      ({ onsetTicks, endTicks }) => onsetTicks < from + durationTicks && endTicks > from,
    )
    const isCovered =
      chord !== undefined && chord.onsetTicks <= from && chord.endTicks >= from + durationTicks
    if (isRest ? chord !== undefined : !isCovered) return null
    if (chord) written.set(chord, (written.get(chord) ?? 0) + durationTicks)
    const value: NoteValue = { type: noteValueTypes[type] ?? '128th', dots }
    pieces.push({
      startTicks,
      durationTicks,
      chord: isRest ? null : chord!,
      writtenTicks: ticksOfNoteValue(value),
      value,
      isHidden: (marks & pieceMarks.hidden) > 0,
      tuplet:
        actual === 0
          ? null
          : {
              actual,
              normal,
              starts: (marks & pieceMarks.tupletStarts) > 0,
              stops: (marks & pieceMarks.tupletStops) > 0,
            },
    })
  }
  const endTicks = measure.startTicks + measure.lengthTicks
  const isWhole = chords.every(
    (chord) =>
      written.get(chord) ===
      Math.min(chord.endTicks, endTicks) - Math.max(chord.onsetTicks, measure.startTicks),
  )
  return position === measure.lengthTicks && isWhole ? pieces : null
}
