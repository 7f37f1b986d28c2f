import { z } from '../border/checks'
import { clickSchema } from '../capture/clickSettings'
import { snappingSchema } from '../capture/snapping'
import { takeInfoSchema } from '../capture/takeInfo'
import { chainChangesSchema, chainSchema, type EffectSlot } from '../effects/catalogue'
import type { ChainChange } from '../effects/chain'
import type { ControllerEvent, Note } from '../event/note'
import { generatorSchema } from '../generators/generator'
import { instrumentSchema } from '../midi/instrument'
import { channelSchema, keySchema } from '../midi/messageSchemas'
import { amendmentsSchema } from '../notation/amendments/amendment'
import { brackets } from '../notation/families'
import type { Manuscript } from '../notation/manuscript/manuscript'
import { keyChangeSchema, scoreSettingsSchema } from '../notation/scoreSettings'
import { transpositionNames } from '../notation/transposition'
import { pageSetupSchema } from '../pages/pageSetup'
import { soundInputSchema } from '../pitch/soundInput'
import { inputAddressSchema, portIdSchema } from '../routing/address'
import { routeSchema } from '../routing/route'
import { longestName } from '../text/bounded'
import { fastestPercent, slowestPercent } from '../time/speed'
import { meterChangesSchema, stretchSchema, tempoChangesSchema, tickSchema } from '../time/timeSchemas'

/** Version of the stored shape; `migrate.ts` brings older ones up to it. */
export const projectSchemaVersion = 11

const name = z.string().max(longestName)

export const sourceSchema = z.object({
  id: z.string().min(1),
  name,
  kind: z.enum(['standIn', 'computerKeyboard', 'midiPort', 'cable', 'midiFile', 'generator', 'soundInput']),
  address: inputAddressSchema,
  /** What the player is, for the card: "wind controller", "two hands". */
  description: z.string().max(longestName),
  /** Name of the port, by which it is found again on another day or machine. */
  portName: name,
  /** Sources of one group fold together; '' for none. */
  group: name,
  /** How late this source's events arrive; taken off when positions are derived. */
  compensationMs: z.number().min(-500).max(500),
  /** The sound that is followed, and how; null for whoever sends notes. */
  soundInput: soundInputSchema.nullable(),
  /** What is played passes these on its way to the tracks: their result is what is recorded. */
  effects: chainSchema,
})

export const clipHeadSchema = z.object({
  id: z.string().min(1),
  name,
  takeSerial: z.number().int().nullable(),
  /** Of several clips recorded over each other, the ones that are heard and written. */
  isSounding: z.boolean(),
  /** For a clip put together from several takes: which clip each bar was taken from. */
  combinedFrom: z.array(z.object({ barStartTicks: tickSchema, clipId: z.string() })).nullable(),
})

/**
 * Where a take lies that is recorded onto music: fresh, it is another take, and what was there rests; layered, it sounds with what is
 * there; as a voice, it does so as a line of its own; as a staff, it has a track of its own beneath.
 */
export const takeWays = ['fresh', 'layered', 'voice', 'staff'] as const
export type TakeWay = (typeof takeWays)[number]

export const monitorModes = ['always', 'armed', 'off'] as const

export const trackHeadSchema = z.object({
  id: z.string().min(1),
  name,
  /** What it is called on all lines of the page but the first; '' for the customary abbreviation. */
  shortName: name,
  /** Index of the thread colour, the same everywhere for one voice. */
  thread: z.number().int().min(0),
  /** Whom the track hears; empty for one that hears nobody. */
  routes: z.array(routeSchema).max(64),
  /** When what arrives is heard through the track's instrument. */
  monitor: z.enum(monitorModes),
  /** Port or cable the track's notes are sent to, besides its own sound; channel null: the track's own. */
  sendTo: inputAddressSchema.nullable(),
  /** Played back this much later (earlier when negative), to line up sound paths. */
  offsetMs: z.number().min(-500).max(500),
  snapping: snappingSchema.nullable(),
  instrument: instrumentSchema,
  /** Channel written to files. */
  channel: channelSchema,
  volume: z.number().min(0).max(1),
  /** −1 left, 1 right. */
  pan: z.number().min(-1).max(1),
  isMuted: z.boolean(),
  isSolo: z.boolean(),
  isArmed: z.boolean(),
  effects: chainSchema,
  /** How the effects were changed while they played, in order: part of the performance. */
  effectChanges: chainChangesSchema,
  /** The effects are not at work, as they are since their result was printed; each stays as it is set. */
  doEffectsRest: z.boolean(),
  /** The tracks this one was made from: their effects were printed, they were taken apart or put together. */
  madeFrom: z
    .object({
      trackIds: z.array(z.string()).min(1).max(512),
      by: z.enum(['printing', 'separation', 'joining']),
    })
    .nullable(),
  /** Sounds this much higher; lower when negative. */
  tuningCents: z.number().min(-100).max(100),
  /** What the keys of a kit are called here, where they are called otherwise than in General MIDI. */
  keyNames: z.array(z.object({ key: keySchema, name })).max(128),
  /** Key at and above which notes go to the upper staff; null: on a single staff. "auto" decides by range. */
  staffSplitKey: z.union([keySchema, z.literal('auto'), z.null()]),
  /** How its part is written; "auto" goes by its name and instrument. */
  writtenAs: z.enum(['auto', ...transpositionNames]),
  isOnPage: z.boolean(),
  /** What holds its staff together with those around it. */
  bracket: z.enum(brackets),
})

/** A track as it is stored: with what its clips are called, without their insides. */
export const trackWithClipsSchema = trackHeadSchema.extend({ clips: z.array(clipHeadSchema) })

/** A file kept with the project: its bytes lie in storage under its id. */
export const assetSchema = z.object({
  id: z.string().min(1).max(100),
  name,
  mediaType: z.string().max(100),
  byteLength: z.number().int().min(0),
})

export const backingSchema = z.object({
  assetId: z.string(),
  name,
  /** Where in the piece the file begins; negative: that much of it is left out. */
  offsetMs: z.number().min(-3_600_000).max(3_600_000),
  level: z.number().min(0).max(1),
  isOn: z.boolean(),
})

/** So many named sections a piece can have. */
export const mostSections = 500
/** So many changes of key a piece can have. */
export const mostKeyChanges = 1000
/** So many syllables and texts a piece can have. */
export const mostWords = 20_000

/** lyric: a syllable of a track's line; text: written above it; cue: for whoever runs the performance; chord: the symbol of one. */
export const wordKinds = ['lyric', 'text', 'cue', 'chord'] as const

export const wordsSchema = z.object({
  tick: tickSchema,
  kind: z.enum(wordKinds),
  /** null: of the whole piece. */
  trackId: z.string().nullable(),
  text: name,
})

export const projectHeadSchema = z.object({
  schemaVersion: z.literal(projectSchemaVersion),
  id: z.string().min(1).max(100),
  name,
  subtitle: name,
  createdAtMs: z.number(),
  tempos: tempoChangesSchema,
  meters: meterChangesSchema,
  /** Parts of the piece by name, in order: rehearsal marks on the page, markers in files. */
  sections: z.array(z.object({ tick: tickSchema, name })).max(mostSections),
  /** What is sung, said and written beside the notes, in order. */
  words: z.array(wordsSchema).max(mostWords),
  composer: name,
  arranger: name,
  /** Whose the rights are, as it is printed at the foot of the first page. */
  rights: name,
  /** How it is laid out on paper. */
  page: pageSetupSchema,
  /** Key signatures in order, each from the bar it lies in; none: found from the notes. */
  keys: z.array(keyChangeSchema).max(mostKeyChanges),
  /** What of the page was changed by hand, over the reading. */
  amendments: amendmentsSchema,
  sources: z.array(sourceSchema),
  tracks: z.array(trackWithClipsSchema),
  takes: z.array(takeInfoSchema),
  scoreSettings: scoreSettingsSchema,
  /** Bars, or "firstNote": recording begins with the first note that is played. */
  countIn: z.union([z.number().int().min(0).max(4), z.literal('firstNote')]),
  click: clickSchema,
  recording: z.object({
    /** The stretch that is marked, for the loop or for recording within it. */
    stretch: stretchSchema.nullable(),
    isLooping: z.boolean(),
    /** Effects throw anew in each turn of a loop that is played. */
    isThrownEachTurn: z.boolean(),
    takeMode: z.enum(takeWays),
    /** It is played and recorded at so much of its tempo; what is recorded lies where it was played. */
    speedPercent: z.number().int().min(slowestPercent).max(fastestPercent),
    /** Of a source with effects: what it played, their result, or both. */
    keeps: z.enum(['played', 'result', 'both']),
  }),
  /** What is played outside recording is remembered for a while. */
  isListening: z.boolean(),
  clock: z.object({
    /** Ports and cables that get clock, start, stop and position. */
    sendTo: z.array(portIdSchema).max(64),
    /** The port or cable whose clock is followed. */
    follow: portIdSchema.nullable(),
  }),
  /** Names of the cables that are read. */
  cables: z.array(name).max(64),
  generators: z.array(generatorSchema).max(64),
  backing: backingSchema.nullable(),
  assets: z.array(assetSchema),
  foldedGroups: z.array(name),
  /** Remarks on the wiring that are meant so, by id. */
  acceptedRemarks: z.array(z.string().max(600)),
  /** Next number for notes, takes and identifiers; never goes back. */
  nextSerial: z.number().int().min(1),
})

export type Keeps = ProjectHead['recording']['keeps']
export type MonitorMode = (typeof monitorModes)[number]
export type Section = ProjectHead['sections'][number]
export type Words = Readonly<z.infer<typeof wordsSchema>>
export type Asset = Readonly<z.infer<typeof assetSchema>>
export type Backing = Readonly<z.infer<typeof backingSchema>>
export type Source = Readonly<z.infer<typeof sourceSchema>>
export type ProjectHead = Readonly<z.infer<typeof projectHeadSchema>>

export type Clip = Readonly<z.infer<typeof clipHeadSchema>> & {
  /** In order of onset. */
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
  /** How its notes are written, where they came from a file of notation. */
  readonly manuscript?: Manuscript
}
export type Track = Readonly<Omit<z.infer<typeof trackHeadSchema>, 'effects' | 'effectChanges'>> & {
  readonly effects: readonly EffectSlot[]
  readonly effectChanges: readonly ChainChange[]
  readonly clips: readonly Clip[]
}
export type Project = Omit<ProjectHead, 'tracks'> & { readonly tracks: readonly Track[] }
