import { z } from '../../border/checks'

/** One staff of the receiver: what comes on its channel is written there. */
const staffSchema = z.object({
  clef: z.enum(['treble', 'bass', 'percussion']),
  /** 1–16. */
  channel: z.number().int().min(1).max(16),
})

/** A part as it was set up: one staff, or two of a keyboard. */
const partSchema = z.object({
  name: z.string().max(60),
  staves: z.array(staffSchema).min(1).max(2),
  /** Where both staves hear one channel: keys from here up are written on the upper one. */
  splitKey: z.number().int().min(1).max(127),
})

export const receiverSettingsSchema = z.object({
  /** null: a part for each channel, as it arrives. */
  parts: z.array(partSchema).max(32).nullable(),
  numerator: z.number().int().min(1).max(24),
  denominator: z.union([z.literal(2), z.literal(4), z.literal(8)]),
  fifths: z.number().int().min(-7).max(7),
  /** When writing begins. */
  begins: z.enum(['with the clock', 'with the first note', 'after a count-in']),
  countInBars: z.number().int().min(1).max(4),
  /** Where no clock is followed. */
  tempoBpm: z.number().min(20).max(400),
  /** Notes to the whole note, of the smallest value that is written. */
  smallest: z.union([z.literal(4), z.literal(8), z.literal(16), z.literal(32)]),
  /** Three in the time of two are written too. */
  triplets: z.boolean(),
  /** What is struck within this is one chord. */
  chordWindowMs: z.number().min(0).max(200),
  /** What is softer, or shorter, is not written. */
  lowestVelocity: z.number().int().min(1).max(127),
  shortestMs: z.number().min(0).max(500),
  /** The channel of a click: it is not written; null: all are. */
  clickChannel: z.number().int().min(1).max(16).nullable(),
})

export type ReceiverSettings = Readonly<z.infer<typeof receiverSettingsSchema>>
export type ReceiverPart = ReceiverSettings['parts'] extends readonly (infer Part)[] | null ? Part : never
export type ReceiverStaff = ReceiverPart['staves'][number]

export const defaultReceiver: ReceiverSettings = {
  parts: null,
  numerator: 4,
  denominator: 4,
  fifths: 0,
  begins: 'with the clock',
  countInBars: 1,
  tempoBpm: 96,
  smallest: 16,
  triplets: true,
  chordWindowMs: 30,
  lowestVelocity: 1,
  shortestMs: 15,
  clickChannel: null,
}
