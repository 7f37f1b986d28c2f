import { z } from 'zod'
import { chainSchema, type EffectSlot } from '../effects/catalogue'
import type { ChainChange } from '../effects/chain'
import type { ControllerEvent, Note } from '../event/note'
import { generatorSchema } from '../generators/generator'
import { longestName, longestPortId } from '../text/bounded'
import { lastTick } from '../time/units'

/** Version of the stored shape; `migrate.ts` brings older ones up to it. */
export const projectSchemaVersion = 4

const tick = z.number().int().min(0).max(lastTick)
const channel = z.number().int().min(1).max(16)
const name = z.string().max(longestName)
const key = z.number().int().min(0).max(127)
const velocity = z.number().int().min(1).max(127)
const portId = z.string().min(1).max(longestPortId)
const tempoChanges = z.array(z.object({ tick, tempoBpm: z.number().min(4).max(1000) })).min(1)

/** Where a note stream comes from: a port, and the channel on it (null: any channel). */
export const inputAddressSchema = z.object({
  portId,
  channel: channel.nullable(),
})

/** What becomes of the velocities on the way to a track. */
export const velocityShapeSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('asPlayed') }),
  /** Above 0 a light touch is lifted, below 0 it is held back; the loudest stays the loudest. */
  z.object({ kind: z.literal('curve'), lift: z.number().min(-1).max(1) }),
  z.object({ kind: z.literal('fixed'), velocity }),
])

const chainChanges = z.array(z.object({ tick: z.number().int(), slots: chainSchema })).max(2000)

/** One way into a track: which stream, which keys of it, and what changes on the way. */
export const routeSchema = inputAddressSchema.extend({
  lowKey: key,
  highKey: key,
  /** Channel given to what passes; null: as it came. */
  toChannel: channel.nullable(),
  transposeSemitones: z.number().int().min(-60).max(60),
  velocity: velocityShapeSchema,
})

export const sourceSchema = z.object({
  id: z.string().min(1),
  name,
  kind: z.enum(['standIn', 'computerKeyboard', 'midiPort', 'cable', 'midiFile', 'generator']),
  address: inputAddressSchema,
  /** What the player is, for the card: "wind controller", "two hands". */
  description: z.string().max(longestName),
  /** Name of the port, by which it is found again on another day or machine. */
  portName: name,
  /** Sources of one group fold together; '' for none. */
  group: name,
  /** How late this source's events arrive; taken off when positions are derived. */
  compensationMs: z.number().min(-500).max(500),
  /** What is played passes these on its way to the tracks: their result is what is recorded. */
  effects: chainSchema,
})

export const instrumentSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('program'), program: z.number().int().min(0).max(127) }),
  z.object({ kind: z.literal('drums') }),
  /** Silent here: for a track that only sends to another program. */
  z.object({ kind: z.literal('none') }),
])

/** How the played notes of a track are shown, heard and written; what was played stays as it is. */
export const snappingSchema = z.object({
  gridValue: z.union([z.literal(4), z.literal(8), z.literal(16), z.literal(32)]),
  /** 0: as played, 1: on the grid. */
  strength: z.number().min(0).max(1),
  /** Place of the second of two grid steps: 0.5 even, 2/3 triplet swing. */
  swing: z.number().min(0.5).max(0.75),
  tuplets: z.boolean(),
})

export const clipHeadSchema = z.object({
  id: z.string().min(1),
  name,
  takeSerial: z.number().int().nullable(),
  /** Of several clips recorded over each other, the ones that are heard and written. */
  isSounding: z.boolean(),
  /** For a clip put together from several takes: which clip each bar was taken from. */
  combinedFrom: z.array(z.object({ barStartTicks: tick, clipId: z.string() })).nullable(),
})

export const monitorModes = ['always', 'armed', 'off'] as const

export const trackHeadSchema = z.object({
  id: z.string().min(1),
  name,
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
  channel,
  volume: z.number().min(0).max(1),
  /** −1 left, 1 right. */
  pan: z.number().min(-1).max(1),
  isMuted: z.boolean(),
  isSolo: z.boolean(),
  isArmed: z.boolean(),
  effects: chainSchema,
  /** How the effects were changed while they played, in order: part of the performance. */
  effectChanges: chainChanges,
  /** The effects are not at work, as they are since their result was printed; each stays as it is set. */
  doEffectsRest: z.boolean(),
  /** The track whose effect this one was printed from. */
  printedFromTrackId: z.string().nullable(),
  /** Key at and above which notes go to the upper staff; null: on a single staff. "auto" decides by range. */
  staffSplitKey: z.union([z.number().int().min(0).max(127), z.literal('auto'), z.null()]),
  isOnPage: z.boolean(),
})

/** A track as it is stored: with what its clips are called, without their insides. */
export const trackWithClipsSchema = trackHeadSchema.extend({ clips: z.array(clipHeadSchema) })

export const takeInfoSchema = z.object({
  serial: z.number().int().min(1),
  name,
  recordedAtMs: z.number(),
  startTicks: tick,
  /** The moment of `startTicks` on the sources' clock (milliseconds since the epoch). */
  anchorMs: z.number(),
  durationMs: z.number().min(0),
  eventCount: z.number().int().min(0),
  /** The tempi it was played to: its notes can be derived again after the tempo was changed. */
  tempos: tempoChanges,
  /** The tracks that were armed, with their routes then. */
  listeners: z.array(z.object({ trackId: z.string(), routes: z.array(routeSchema) })),
  /** Lateness of sources that was taken off. */
  compensations: z.array(inputAddressSchema.extend({ compensationMs: z.number() })),
  /** Notes up to this much before the start belong to the downbeat. */
  earlyMs: z.number().min(0),
  /** Passes of one loop share the serial of the first; `pass` counts from 1. */
  loop: z.object({ firstSerial: z.number().int(), pass: z.number().int().min(1) }).nullable(),
  /** Moments and positions along a followed clock, in order; empty where the piece's own tempo was played to. */
  clockPoints: z.array(z.object({ timeMs: z.number(), ticks: z.number() })),
  /** The effects that sources played through, with what was changed while they played. */
  chains: z.array(inputAddressSchema.extend({ slots: chainSchema, changes: chainChanges })),
})

export const clickSchema = z.object({
  isOn: z.boolean(),
  hasAccent: z.boolean(),
  /** Clicks to the beat. */
  subdivision: z.union([z.literal(1), z.literal(2), z.literal(3), z.literal(4)]),
  level: z.number().min(0).max(1),
  /** Where in the room: on both sides, or on one that goes to headphones. */
  side: z.enum(['both', 'left', 'right']),
  /** Port or cable that gets the click as notes, instead of the sound here. */
  portId: portId.nullable(),
})

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
  tempos: tempoChanges,
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
  tracks: z.array(trackWithClipsSchema),
  takes: z.array(takeInfoSchema),
  scoreSettings: scoreSettingsSchema,
  /** Bars, or "firstNote": recording begins with the first note that is played. */
  countIn: z.union([z.number().int().min(0).max(4), z.literal('firstNote')]),
  click: clickSchema,
  recording: z.object({
    /** The stretch that is marked, for the loop or for recording within it. */
    stretch: z.object({ startTicks: tick, endTicks: tick }).nullable(),
    isLooping: z.boolean(),
    /** layered: takes of a track sound together; fresh: the last one sounds. */
    takeMode: z.enum(['layered', 'fresh']),
    /** Of a source with effects: what it played, their result, or both. */
    keeps: z.enum(['played', 'result', 'both']),
  }),
  /** What is played outside recording is remembered for a while. */
  isListening: z.boolean(),
  clock: z.object({
    /** Ports and cables that get clock, start, stop and position. */
    sendTo: z.array(portId).max(64),
    /** The port or cable whose clock is followed. */
    follow: portId.nullable(),
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
export type InputAddress = Readonly<z.infer<typeof inputAddressSchema>>
export type VelocityShape = Readonly<z.infer<typeof velocityShapeSchema>>
export type Route = Readonly<z.infer<typeof routeSchema>>
export type Snapping = Readonly<z.infer<typeof snappingSchema>>
export type MonitorMode = (typeof monitorModes)[number]
export type ClickSettings = Readonly<z.infer<typeof clickSchema>>
export type Asset = Readonly<z.infer<typeof assetSchema>>
export type Backing = Readonly<z.infer<typeof backingSchema>>
export type Stretch = { readonly startTicks: number; readonly endTicks: number }
export type Source = Readonly<z.infer<typeof sourceSchema>>
export type Instrument = Readonly<z.infer<typeof instrumentSchema>>
export type TakeInfo = Readonly<z.infer<typeof takeInfoSchema>>
export type ScoreSettings = Readonly<z.infer<typeof scoreSettingsSchema>>
export type ProjectHead = Readonly<z.infer<typeof projectHeadSchema>>
export type KeySignature = { readonly fifths: number; readonly mode: 'major' | 'minor' }

export type Clip = Readonly<z.infer<typeof clipHeadSchema>> & {
  /** In order of onset. */
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
}
export type Track = Readonly<Omit<z.infer<typeof trackHeadSchema>, 'effects' | 'effectChanges'>> & {
  readonly effects: readonly EffectSlot[]
  readonly effectChanges: readonly ChainChange[]
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
