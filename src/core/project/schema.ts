import { z } from 'zod'
import { arpeggioSettingsSchema } from '../effects/arpeggio'
import type { ControllerEvent, Note } from '../event/note'

/** Version of the stored shape; `migrate.ts` brings older ones up to it. */
export const projectSchemaVersion = 1

/** Longest name kept; more than that is a mistake or an attack. */
export const longestName = 200

const tick = z.number().int().min(0).max(2_000_000_000)
const channel = z.number().int().min(1).max(16)
const name = z.string().max(longestName)

/** Where a note stream comes from: a port, and the channel on it (null: any channel). */
export const inputAddressSchema = z.object({
  portId: z.string().min(1).max(300),
  channel: channel.nullable(),
})

export const sourceSchema = z.object({
  id: z.string().min(1),
  name,
  kind: z.enum(['standIn', 'computerKeyboard', 'midiPort']),
  address: inputAddressSchema,
  /** What the player is, for the card: "wind controller", "two hands". */
  description: z.string().max(longestName),
})

export const instrumentSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('program'), program: z.number().int().min(0).max(127) }),
  z.object({ kind: z.literal('drums') }),
])

export const effectSlotSchema = z.object({
  id: z.string().min(1),
  kind: z.literal('arpeggio'),
  isOn: z.boolean(),
  settings: arpeggioSettingsSchema,
})

export const clipHeadSchema = z.object({
  id: z.string().min(1),
  name,
  takeSerial: z.number().int().nullable(),
  /** Of several clips recorded over each other, the ones that are heard and written. */
  isSounding: z.boolean(),
})

export const trackHeadSchema = z.object({
  id: z.string().min(1),
  name,
  /** Index of the thread colour, the same everywhere for one voice. */
  thread: z.number().int().min(0),
  input: inputAddressSchema.nullable(),
  instrument: instrumentSchema,
  /** Channel written to files. */
  channel,
  volume: z.number().min(0).max(1),
  /** −1 left, 1 right. */
  pan: z.number().min(-1).max(1),
  isMuted: z.boolean(),
  isSolo: z.boolean(),
  isArmed: z.boolean(),
  effects: z.array(effectSlotSchema),
  /** The track whose effect this one was printed from. */
  printedFromTrackId: z.string().nullable(),
  /** Key at and above which notes go to the upper staff; null: on a single staff. "auto" decides by range. */
  staffSplitKey: z.union([z.number().int().min(0).max(127), z.literal('auto'), z.null()]),
  isOnPage: z.boolean(),
})

export const takeInfoSchema = z.object({
  serial: z.number().int().min(1),
  name,
  recordedAtMs: z.number(),
  startTicks: tick,
  /** The moment of `startTicks` on the sources' clock (milliseconds since the epoch). */
  anchorMs: z.number(),
  durationMs: z.number().min(0),
  eventCount: z.number().int().min(0),
})

export const scoreSettingsSchema = z.object({
  /** Smallest written value as the denominator of a whole note. */
  smallestValue: z.union([z.literal(4), z.literal(8), z.literal(16), z.literal(32)]),
  tuplets: z.boolean(),
  severalVoices: z.boolean(),
  /** Key at and above which a note belongs to the upper staff of a grand staff. */
  splitKey: z.number().int().min(0).max(127),
  minVelocity: z.number().int().min(0).max(127),
  minLengthMs: z.number().min(0).max(2000),
  chordWindowMs: z.number().min(0).max(200),
})

export const projectHeadSchema = z.object({
  schemaVersion: z.literal(projectSchemaVersion),
  id: z.string().min(1).max(100),
  name,
  subtitle: name,
  createdAtMs: z.number(),
  tempos: z.array(z.object({ tick, tempoBpm: z.number().min(4).max(1000) })).min(1),
  meters: z
    .array(
      z.object({
        tick,
        numerator: z.number().int().min(1).max(64),
        denominator: z.union([
          z.literal(1),
          z.literal(2),
          z.literal(4),
          z.literal(8),
          z.literal(16),
          z.literal(32),
          z.literal(64),
        ]),
      }),
    )
    .min(1),
  /** null: found from the notes. */
  key: z.object({ fifths: z.number().int().min(-7).max(7), mode: z.enum(['major', 'minor']) }).nullable(),
  sources: z.array(sourceSchema),
  tracks: z.array(trackHeadSchema.extend({ clips: z.array(clipHeadSchema) })),
  takes: z.array(takeInfoSchema),
  scoreSettings: scoreSettingsSchema,
  countInBars: z.number().int().min(0).max(4),
  isClickOn: z.boolean(),
  /** Next number for notes, takes and identifiers; never goes back. */
  nextSerial: z.number().int().min(1),
})

export type InputAddress = Readonly<z.infer<typeof inputAddressSchema>>
export type Source = Readonly<z.infer<typeof sourceSchema>>
export type Instrument = Readonly<z.infer<typeof instrumentSchema>>
export type EffectSlot = Readonly<z.infer<typeof effectSlotSchema>>
export type TakeInfo = Readonly<z.infer<typeof takeInfoSchema>>
export type ScoreSettings = Readonly<z.infer<typeof scoreSettingsSchema>>
export type ProjectHead = Readonly<z.infer<typeof projectHeadSchema>>
export type KeySignature = { readonly fifths: number; readonly mode: 'major' | 'minor' }

export type Clip = Readonly<z.infer<typeof clipHeadSchema>> & {
  /** In order of onset. */
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
}
export type Track = Readonly<Omit<z.infer<typeof trackHeadSchema>, 'effects'>> & {
  readonly effects: readonly EffectSlot[]
  readonly clips: readonly Clip[]
}
export type Project = Omit<ProjectHead, 'tracks'> & { readonly tracks: readonly Track[] }

export const defaultScoreSettings: ScoreSettings = {
  smallestValue: 16,
  tuplets: true,
  severalVoices: true,
  splitKey: 60,
  minVelocity: 2,
  minLengthMs: 20,
  chordWindowMs: 30,
}
