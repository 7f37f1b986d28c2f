import { z } from '../../border/checks'
import type { NoteId } from '../../event/note'
import { lastTick, type Ticks } from '../../time/units'
import { handSigns, longestFingering, writtenLevels } from '../amendments/amendment'
import { clefs, noteValueTypes } from '../score'

const noteId = z.number().int().min(1)
const whole = z.number().int()
const staff = z.union([z.literal(1), z.literal(2)])
/** A place of the page: so many ticks behind the written beginning of a note, or before it. It goes where its note goes. */
const anchor = z.tuple([noteId, whole.min(-lastTick).max(lastTick)])
const ids = z.array(noteId).min(1)

/** Numbers of a head: see `Manuscript.heads`. */
export const headNumbers = 7
/** Numbers of a piece of a layout: see `Manuscript.layouts`. */
export const pieceNumbers = 7
const columns = (size: number) => z.array(whole).refine((numbers) => numbers.length % size === 0)

/** Signs a head can have: those that are set by hand, and of percussion that it is open or closed. */
const writtenSigns = [...handSigns, 'open', 'closed'] as const

/**
 * How the notes of a clip are written, as the file they come from says. What is written is not read then: each note stands where the
 * file has it for as long as it is played as it was brought in. Everything is told by its notes, so that it moves with them.
 */
export const manuscriptSchema = z.object({
  /** Of each staff, at the beginning. */
  clefs: z.array(z.enum(clefs)).min(1).max(2),
  /**
   * Seven numbers a head: its note, the beginning, length and key it is played with, its written beginning and length, and its name as it
   * sounds on the line of fifths.
   */
  heads: columns(headNumbers),
  /** What sounds of an ornament, with the note that is written for it: `[written, …sounding]`. */
  within: z.array(ids),
  /** Notes in small print, with what they lead to: `[main, …small]`; with their names on the line of fifths behind. */
  graces: z.array(z.object({ ids, fifths: z.array(whole) })),
  signs: z.array(z.tuple([noteId, z.enum(writtenSigns)])),
  fingerings: z.array(z.tuple([noteId, z.string().min(1).max(longestFingering)])),
  /** From one note to another. */
  slurs: z.array(z.tuple([noteId, noteId])),
  glissandi: z.array(z.tuple([noteId, noteId])),
  levels: z.array(z.tuple([anchor, z.enum(writtenLevels)])),
  hairpins: z.array(z.tuple([anchor, anchor, z.enum(['crescendo', 'diminuendo'])])),
  pedals: z.array(z.tuple([anchor, anchor])),
  clefChanges: z.array(z.tuple([anchor, staff, z.enum(clefs)])),
  octaveLines: z.array(
    z.tuple([anchor, anchor, staff, z.union([z.literal(1), z.literal(2), z.literal(-1), z.literal(-2)])]),
  ),
  /** Notes on the other staff than that of their line. */
  reached: z.array(noteId),
  /**
   * Bars of a voice that are divided otherwise than usual, by their first note and how far the bar line lies behind the written
   * beginning of this note. Seven numbers a piece: beginning in the bar, length, place of the value in `noteValueTypes`, dots, notes in
   * the time of how many of a tuplet (0 and 0 for none), and marks of `pieceMarks`.
   */
  layouts: z.array(z.object({ first: anchor, pieces: columns(pieceNumbers) })),
  /** Where the music is over. */
  end: anchor,
})

export type Manuscript = Readonly<z.infer<typeof manuscriptSchema>>

/** Marks of a piece, to be added. */
export const pieceMarks = { rest: 1, hidden: 2, tupletStarts: 4, tupletStops: 8 } as const

export const valueIndex = new Map(noteValueTypes.map((type, index) => [type, index]))

/** One head of a manuscript. */
export interface ManuscriptHead {
  readonly noteId: NoteId
  readonly heardTicks: Ticks
  readonly heardDurationTicks: Ticks
  readonly key: number
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly fifths: number
}

export function* headsOf({ heads }: Pick<Manuscript, 'heads'>): Generator<ManuscriptHead> {
  for (let at = 0; at < heads.length; at += headNumbers)
    yield {
      noteId: heads[at]!,
      heardTicks: heads[at + 1]!,
      heardDurationTicks: heads[at + 2]!,
      key: heads[at + 3]!,
      onsetTicks: heads[at + 4]!,
      durationTicks: heads[at + 5]!,
      fifths: heads[at + 6]!,
    }
}
