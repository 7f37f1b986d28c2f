import { z } from '../../border/checks'
import type { NoteId } from '../../event/note'
import { keySchema } from '../../midi/messageSchemas'
import { tickSchema } from '../../time/timeSchemas'

/** So many changes of a page are kept in a piece. */
export const mostAmendments = 50_000
/** Letters of a fingering. */
export const longestFingering = 12

/** Signs that can be put to a note by hand, or taken from it. */
export const handSigns = [
  'staccato',
  'tenuto',
  'accent',
  'marcato',
  'staccatissimo',
  'fermata',
  'breath',
  'up bow',
  'down bow',
  'trill',
  'upper mordent',
  'lower mordent',
  'turn',
  'tremolo',
  'rolled',
] as const
export type HandSign = (typeof handSigns)[number]

/** Levels that can be written; those that are found are among them. */
export const writtenLevels = ['ppp', 'pp', 'p', 'mp', 'mf', 'f', 'ff', 'fff', 'fp', 'sf', 'sfz'] as const
export type WrittenLevel = (typeof writtenLevels)[number]

/** Lines of music that one staff can have. */
export const mostLinesOfStaff = 4

const noteId = z.number().int().min(1)
const onNote = { noteId }
const length = tickSchema.refine((ticks) => ticks > 0)

/**
 * Changes of what was read from a note. Each is kept by the identity of the note, beside the reading: what was played stays as it is.
 */
const noteShapes = [
  /** Where the note is written and for how long, and where it was played when that was told. */
  z.object({
    aspect: z.literal('time'),
    ...onNote,
    heardTicks: tickSchema,
    onsetTicks: tickSchema,
    durationTicks: length,
  }),
  /** It goes on as the next note of its key: both are one, with a tie. */
  z.object({ aspect: z.literal('tie'), ...onNote }),
  /** The name of its pitch as it sounds, on the line of fifths (C 0, G 1, F −1), told when it had this key. */
  z.object({
    aspect: z.literal('spelling'),
    ...onNote,
    key: keySchema,
    fifths: z.number().int().min(-15).max(19),
  }),
  /** The line of its staff, 1 the first. */
  z.object({ aspect: z.literal('line'), ...onNote, line: z.number().int().min(1).max(mostLinesOfStaff) }),
  z.object({ aspect: z.literal('staff'), ...onNote, staff: z.union([z.literal(1), z.literal(2)]) }),
  z.object({ aspect: z.literal('sign'), ...onNote, sign: z.enum(handSigns), isOn: z.boolean() }),
  z.object({ aspect: z.literal('fingering'), ...onNote, text: z.string().min(1).max(longestFingering) }),
  /** null: none stands here. */
  z.object({ aspect: z.literal('level'), ...onNote, mark: z.enum(writtenLevels).nullable() }),
  /** From this note to the end of another; null: none lies over this note. */
  z.object({
    aspect: z.literal('hairpin'),
    ...onNote,
    to: z.object({ noteId, kind: z.enum(['crescendo', 'diminuendo']) }).nullable(),
  }),
  /** From this note to another of its line; null: none lies over this note. */
  z.object({ aspect: z.literal('slur'), ...onNote, toNoteId: noteId.nullable() }),
] as const

const onBar = { tick: tickSchema }
/** The file that the piece comes from says so, and nobody's hand. */
const fromFile = { isFromFile: z.literal(true).optional() }

/** Changes of bars: kept by their place, which moves with the bars of the piece. */
const barShapes = [
  /** From this bar on; null: the clef does not change here. */
  z.object({
    aspect: z.literal('clef'),
    ...onBar,
    trackId: z.string().min(1),
    staff: z.union([z.literal(1), z.literal(2)]),
    clef: z.enum(['treble', 'alto', 'tenor', 'bass', 'treble 8vb', 'bass 8vb']).nullable(),
  }),
  /** The line at the end of the bar. */
  z.object({
    aspect: z.literal('barLine'),
    ...onBar,
    style: z.enum(['double', 'final', 'dashed', 'dotted']),
    ...fromFile,
  }),
  /**
   * This bar and those up to another are played several times. Where they are there so often in what is played, one after the other
   * (without the ending of the first time), they are written once; absent: they are there once.
   */
  z.object({
    aspect: z.literal('repeat'),
    ...onBar,
    lastBarTick: tickSchema,
    timesThere: z.number().int().min(2).max(32).optional(),
    ...fromFile,
  }),
  /** This bar and those up to another are played the first time only, or the second. */
  z.object({
    aspect: z.literal('ending'),
    ...onBar,
    lastBarTick: tickSchema,
    time: z.union([z.literal(1), z.literal(2)]),
    ...fromFile,
  }),
  /** A line of music, or a page, begins with this bar on paper. */
  z.object({ aspect: z.literal('break'), ...onBar, of: z.enum(['line', 'page']), ...fromFile }),
  /** A rest is not printed; its place in the bar stays. */
  z.object({
    aspect: z.literal('hiddenRest'),
    ...onBar,
    trackId: z.string().min(1),
    voice: z.number().int().min(1).max(16),
  }),
] as const

export const noteAmendmentSchema = z.discriminatedUnion('aspect', noteShapes)
export const barAmendmentSchema = z.discriminatedUnion('aspect', barShapes)
export const amendmentSchema = z.discriminatedUnion('aspect', [...noteShapes, ...barShapes])
export const amendmentsSchema = z.array(amendmentSchema).max(mostAmendments)

export type NoteAmendment = Readonly<z.infer<typeof noteAmendmentSchema>>
export type BarAmendment = Readonly<z.infer<typeof barAmendmentSchema>>
export type Amendment = NoteAmendment | BarAmendment
export type Aspect = Amendment['aspect']
export type AmendmentOf<A extends Aspect> = Extract<Amendment, { readonly aspect: A }>

export function isOfNote(amendment: Amendment): amendment is NoteAmendment {
  return 'noteId' in amendment
}

export function isFromFile(amendment: Amendment): boolean {
  return 'isFromFile' in amendment && amendment.isFromFile === true
}

/** What an amendment is of: of two with the same address the later one holds. */
export function addressOf(amendment: Amendment): string {
  switch (amendment.aspect) {
    case 'sign':
      return `sign ${amendment.sign} ${amendment.noteId}`
    case 'clef':
      return `clef ${amendment.tick} ${amendment.staff} ${amendment.trackId}`
    case 'hiddenRest':
      return `hiddenRest ${amendment.tick} ${amendment.voice} ${amendment.trackId}`
    default:
      return `${amendment.aspect} ${isOfNote(amendment) ? amendment.noteId : amendment.tick}`
  }
}

/** An amendment that does not fit what is read now: kept, told, and at work again as soon as it fits. */
export interface Misfit {
  readonly amendment: Amendment
  /** Why, as the end of a sentence. */
  readonly why: string
}

/** Those of one aspect by their note. */
export function byNote<A extends NoteAmendment['aspect']>(
  amendments: readonly NoteAmendment[],
  aspect: A,
): ReadonlyMap<NoteId, AmendmentOf<A>> {
  return new Map(
    amendments.flatMap((each) => (each.aspect === aspect ? [[each.noteId, each as AmendmentOf<A>]] : [])),
  )
}
