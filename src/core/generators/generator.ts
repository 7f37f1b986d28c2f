import { z } from '../border/checks'
import type { MusicalContext } from '../effects/noteEffect'
import { boundedName, longestName, nameWith } from '../text/bounded'
import { firstIndex } from '../time/firstIndex'
import type { Ticks } from '../time/units'
import {
  accompanimentNotes,
  accompanimentSchema,
  chordPlayerNotes,
  chordPlayerSchema,
} from './chartGenerators'
import { readChart } from './chordChart'
import type { GeneratedNote, GeneratedStream, TypingProblem } from './generated'
import { laneNotes, laneSchema } from './lane'
import { readAbc } from './typed/abc'
import { readLists } from './typed/lists'
import type { TypedMusic } from './typed/typedPart'

export const longestTypedText = 5_000_000

const typedSchema = z.object({
  language: z.enum(['abc', 'lists']),
  text: z.string().max(longestTypedText),
  /** How much of its written length a note sounds, in percent. */
  gate: z.number().min(1).max(100),
  startBar: z.number().int().min(1).max(9999),
})

export type TypedSettings = Readonly<z.infer<typeof typedSchema>>

const seed = z.number().int().min(0).max(0xffffffff)

export const generatorSchema = z.object({
  id: z.string().min(1).max(100),
  name: z.string().min(1).max(longestName),
  /** Plays when the piece plays or is recorded; otherwise it rests. */
  isPlaying: z.boolean(),
  seed,
  isSeedKept: z.boolean(),
  earlierSeeds: z.array(seed).max(50),
  work: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('lanes'), lanes: z.array(laneSchema).max(64) }),
    chordPlayerSchema.extend({ kind: z.literal('chords') }),
    accompanimentSchema.extend({ kind: z.literal('accompaniment') }),
    typedSchema.extend({ kind: z.literal('typed') }),
  ]),
})

export type Generator = Readonly<z.infer<typeof generatorSchema>>
export type GeneratorWork = Generator['work']
export type GeneratorKind = GeneratorWork['kind']

const portPrefix = 'generator:'

/** The port on which a generator plays, as a source like any other. */
export function generatorPortId(generatorId: string): string {
  return `${portPrefix}${generatorId}`
}

export function generatorOfPort(portId: string): string | null {
  return portId.startsWith(portPrefix) ? portId.slice(portPrefix.length) : null
}

/** What was typed, read once for each text. */
const readTexts = new WeakMap<object, TypedMusic>()

export function typedMusic(work: TypedSettings): TypedMusic {
  let music = readTexts.get(work)
  if (!music) {
    music = work.language === 'abc' ? readAbc(work.text) : readLists(work.text)
    readTexts.set(work, music)
  }
  return music
}

/** What is wrong in what was typed. */
export function problemsOf(work: GeneratorWork): readonly TypingProblem[] {
  if (work.kind === 'typed') return typedMusic(work).problems
  return work.kind === 'lanes' ? [] : readChart(work.chart).problems
}

/** Channels that parts without one get: the free ones in order, the drums' left out. */
function partChannels(music: TypedMusic): number[] {
  const taken = new Set(music.parts.flatMap((part) => (part.channel === null ? [] : [part.channel])))
  const free = Array.from({ length: 16 }, (_, index) => index + 1).filter(
    (channel) => channel !== 10 && !taken.has(channel),
  )
  let next = 0
  return music.parts.map((part) => part.channel ?? free[next++ % Math.max(1, free.length)] ?? 1)
}

/** The streams of a generator, one for each channel. */
export function streamsOf({ work, name }: Pick<Generator, 'work' | 'name'>): GeneratedStream[] {
  const streams: GeneratedStream[] = []
  switch (work.kind) {
    case 'lanes':
      for (const lane of work.lanes)
        streams.push({
          channel: lane.channel,
          name: lane.name,
          instrument: lane.channel === 10 ? 'drums' : 12,
          offsetMs: 0,
        })
      break
    case 'chords':
      streams.push({ channel: work.channel, name, instrument: 4, offsetMs: 0 })
      break
    case 'accompaniment':
      streams.push(
        { channel: work.bassChannel, name: nameWith(name, ', bass'), instrument: 32, offsetMs: 0 },
        { channel: work.drumsChannel, name: nameWith(name, ', drums'), instrument: 'drums', offsetMs: 0 },
        { channel: work.compingChannel, name: nameWith(name, ', comping'), instrument: 0, offsetMs: 0 },
      )
      break
    case 'typed': {
      const music = typedMusic(work)
      const channels = partChannels(music)
      for (const [index, part] of music.parts.entries())
        streams.push({
          channel: channels[index]!,
          name: boundedName(part.name) || 'Part',
          instrument: part.program ?? 0,
          offsetMs: part.offsetMs,
        })
    }
  }
  return streams.filter(
    (stream, index) => streams.findIndex((each) => each.channel === stream.channel) === index,
  )
}

/** All notes of a generator that ends by itself, in order; null for lanes, which go on for ever. */
function finishedNotes(generator: Generator, context: MusicalContext): readonly GeneratedNote[] | null {
  const { work } = generator
  switch (work.kind) {
    case 'lanes':
      return null
    case 'chords':
      return chordPlayerNotes(work, context).sort((a, b) => a.onsetTicks - b.onsetTicks)
    case 'accompaniment':
      return accompanimentNotes(work, context, generator.seed)
    case 'typed':
      return typedNotes(work, context)
  }
}

function typedNotes(work: TypedSettings, { meterMap, tempoMap }: MusicalContext): GeneratedNote[] {
  const music = typedMusic(work)
  const channels = partChannels(music)
  const startTicks = meterMap.measure(work.startBar - 1).startTicks
  const notes: GeneratedNote[] = []
  for (const [index, part] of music.parts.entries()) {
    const channel = channels[index]!
    const gate = (part.gate ?? work.gate) / 100
    for (const { onsetTicks, durationTicks, keys, velocity } of part.notes) {
      const written = startTicks + onsetTicks
      const moved = tempoMap.shifted(written, part.offsetMs)
      for (const key of keys)
        notes.push({
          onsetTicks: moved,
          durationTicks: Math.max(1, Math.round(durationTicks * gate)),
          key,
          velocity,
          channel,
        })
    }
  }
  return notes.sort((a, b) => a.onsetTicks - b.onsetTicks)
}

const finished = new WeakMap<
  Generator,
  { readonly context: MusicalContext; readonly notes: readonly GeneratedNote[] | null }
>()

/**
 * The notes of a generator that begin in a stretch of the piece, in order: a pure function of the generator and the stretch.
 */
export function notesBetween(
  generator: Generator,
  context: MusicalContext,
  fromTicks: Ticks,
  toTicks: Ticks,
): readonly GeneratedNote[] {
  let known = finished.get(generator)
  if (!known || known.context.meterMap !== context.meterMap || known.context.tempoMap !== context.tempoMap) {
    known = { context, notes: finishedNotes(generator, context) }
    finished.set(generator, known)
  }
  const { notes } = known
  const { work } = generator
  if (notes) {
    const last = firstAt(notes, toTicks)
    return notes.slice(firstAt(notes, fromTicks), last)
  }
  if (work.kind !== 'lanes') return []
  return work.lanes
    .flatMap((lane, index) => laneNotes(lane, (generator.seed + index * 7919) >>> 0, fromTicks, toTicks))
    .sort((a, b) => a.onsetTicks - b.onsetTicks || a.channel - b.channel || a.key - b.key)
}

/** Where a generator that ends by itself ends; null for one that goes on. */
export function endOf(generator: Generator, context: MusicalContext): Ticks | null {
  if (generator.work.kind === 'lanes') return null
  let endTicks = 0
  for (const note of notesBetween(generator, context, 0, Number.POSITIVE_INFINITY))
    endTicks = Math.max(endTicks, note.onsetTicks + note.durationTicks)
  return endTicks
}

function firstAt(notes: readonly GeneratedNote[], tick: Ticks): number {
  return firstIndex(notes.length, (index) => notes[index]!.onsetTicks >= tick)
}
