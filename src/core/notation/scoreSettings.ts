import { z } from '../border/checks'
import { keySchema } from '../midi/messageSchemas'
import { tickSchema } from '../time/timeSchemas'

/** How a performance is read. */
export const scoreSettingsSchema = z.object({
  /** Smallest written value as the denominator of a whole note. */
  smallestValue: z.union([z.literal(4), z.literal(8), z.literal(16), z.literal(32)]),
  tuplets: z.boolean(),
  severalVoices: z.boolean(),
  /** Key at and above which a note belongs to the upper staff of a grand staff. */
  splitKey: keySchema,
  /** Grand staves are divided by a split that moves with the hands, not at one key. */
  followsHands: z.boolean(),
  minVelocity: keySchema,
  minLengthMs: z.number().min(0).max(2000),
  chordWindowMs: z.number().min(0).max(200),
  /** Notes that were played short keep their value and get a dot; otherwise they are as short as they were played. */
  readsTouch: z.boolean(),
  /** A piece that swings is written in even eighths, with a word; otherwise its eighths are triplets. */
  readsSwing: z.boolean(),
  /** Every part is written as it sounds. */
  isConcertPitch: z.boolean(),
  /** Clefs change, and octave lines are drawn, where that saves ledger lines. */
  readsClefs: z.boolean(),
  /** Quick notes in turn are one note with a sign. */
  readsOrnaments: z.boolean(),
  /** Slurs are written over what was held from note to note. */
  readsSlurs: z.boolean(),
  /** Levels, hairpins and accents are written from the force of the notes. */
  readsDynamics: z.boolean(),
  /** Signs of the sustain pedal are written where it goes down and up. */
  readsPedal: z.boolean(),
  /** What the pedal holds is written as long as it is heard; otherwise as long as its keys were held. */
  holdsThroughPedal: z.boolean(),
  /** Beams go on over rests between notes of one beat. */
  beamsOverRests: z.boolean(),
  /** Passages that are the same twice are written once, between repeat signs. */
  foldsRepeats: z.boolean(),
  /** Syllables are written under the notes, texts above them. */
  writesWords: z.boolean(),
})

export type ScoreSettings = Readonly<z.infer<typeof scoreSettingsSchema>>

export const defaultScoreSettings: ScoreSettings = {
  smallestValue: 16,
  tuplets: true,
  severalVoices: true,
  splitKey: 60,
  followsHands: false,
  minVelocity: 2,
  minLengthMs: 20,
  chordWindowMs: 30,
  readsTouch: true,
  readsSwing: true,
  isConcertPitch: false,
  readsClefs: true,
  readsOrnaments: true,
  readsSlurs: true,
  readsDynamics: true,
  readsPedal: true,
  holdsThroughPedal: false,
  beamsOverRests: false,
  foldsRepeats: false,
  writesWords: true,
}

/** −7 (seven flats) to 7 (seven sharps). */
export const keySignatureSchema = z.object({
  fifths: z.number().int().min(-7).max(7),
  mode: z.enum(['major', 'minor']),
})

export type KeySignature = Readonly<z.infer<typeof keySignatureSchema>>

/** A key signature from a place on. */
export const keyChangeSchema = keySignatureSchema.extend({ tick: tickSchema })

export type KeyChange = Readonly<z.infer<typeof keyChangeSchema>>
