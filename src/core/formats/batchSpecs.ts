import { z } from '../border/checks'
import { chainSchema, type EffectSlot } from '../effects/catalogue'
import { generatorSchema } from '../generators/generator'
import { contextOf } from '../project/context'
import { emptyProject } from '../project/create'
import { addGenerator } from '../project/generatorCommands'
import { hasEffects, playingEndTicks, printGenerators, printTracks } from '../project/printing'
import type { Project } from '../project/schema'

/** A file that was meant to be a chain or a generator and is not: says where. */
export class SpecError extends Error {
  override name = 'SpecError'
}

function parseJson(text: string, what: string): unknown {
  try {
    return JSON.parse(text)
  } catch (error) {
    throw new SpecError(`${what} is not JSON: ${(error as Error).message}`)
  }
}

function firstIssue(error: z.ZodError): string {
  const issue = error.issues[0]!
  return `at "${issue.path.join('.')}": ${issue.message}`
}

/**
 * Reads a chain as it is given to the batch command: a list of effects, each at least with its kind.
 *
 * @throws SpecError
 */
export function readChain(text: string, seed: number | undefined): EffectSlot[] {
  const given = z.array(z.looseObject({ kind: z.string() })).safeParse(parseJson(text, 'The chain'))
  if (!given.success) throw new SpecError(`The chain is wrong ${firstIssue(given.error)}`)
  const slots = given.data.map((slot, index) => ({
    id: `effect-${index + 1}`,
    isOn: true,
    seed: 1,
    settings: {},
    ...slot,
    ...(seed !== undefined && { seed }),
  }))
  const chain = chainSchema.safeParse(slots)
  if (!chain.success) throw new SpecError(`The chain is wrong ${firstIssue(chain.error)}`)
  return chain.data
}

/**
 * Prints a chain over every track of a piece; each channel that comes out is a track of its own.
 *
 * @returns the piece with the results in the place of their sources
 */
export function printEveryTrack(
  project: Project,
  chain: readonly EffectSlot[],
): { project: Project; notesIn: number; leftOut: number } {
  const tracks = project.tracks.map((track) => ({ ...track, effects: chain }))
  const notesIn = tracks.reduce(
    (sum, track) => sum + track.clips.reduce((notes, clip) => notes + clip.notes.length, 0),
    0,
  )
  const ids = tracks.filter(hasEffects).map((track) => track.id)
  if (ids.length === 0) return { project, notesIn, leftOut: 0 }
  const printed = printTracks({ ...project, tracks }, ids, { stretch: null, isSplit: true })
  return {
    project: {
      ...printed.project,
      tracks: printed.project.tracks
        .filter((track) => printed.printedTrackIds.includes(track.id))
        .map((track) => ({ ...track, name: track.name.replace(/, printed$/, '') })),
    },
    notesIn,
    leftOut: printed.leftOut,
  }
}

const specSchema = z.object({
  name: z.string().min(1).max(200).default('Generated'),
  tempoBpm: z.number().min(4).max(1000).default(120),
  meter: z
    .string()
    .regex(/^\d{1,2}\/(1|2|4|8|16|32|64)$/, 'should be like 3/4')
    .default('4/4'),
  /** How long what goes on for ever is to be. */
  bars: z.number().int().min(1).max(5000).default(16),
  seed: z.number().int().min(0).max(0xffffffff).default(1),
  work: z.unknown(),
})

/**
 * Reads a generator as it is given to the batch command and has it play.
 *
 * @throws SpecError
 */
export function generateFromSpec(text: string): Project {
  const spec = specSchema.safeParse(parseJson(text, 'The specification'))
  if (!spec.success) throw new SpecError(`The specification is wrong ${firstIssue(spec.error)}`)
  const { name, tempoBpm, meter, bars, seed, work } = spec.data
  const generator = generatorSchema.safeParse({
    id: 'generator',
    name,
    isPlaying: true,
    seed,
    isSeedKept: true,
    earlierSeeds: [],
    work,
  })
  if (!generator.success) throw new SpecError(`The specification is wrong ${firstIssue(generator.error)}`)
  return generate(name, tempoBpm, meter, bars, generator.data)
}

/** Has typed music play: ABC notation or lists of pitches and lengths. */
export function generateFromText(
  name: string,
  text: string,
  language: 'abc' | 'lists',
  tempoBpm = 120,
): Project {
  const { project, generator } = addGenerator(emptyProject('typed', name, 0), 'typed')
  if (generator.work.kind !== 'typed') return project
  return generate(name, tempoBpm, '4/4', 1, {
    ...generator,
    name,
    work: { ...generator.work, language, text },
  })
}

function generate(
  name: string,
  tempoBpm: number,
  meter: string,
  bars: number,
  generator: Project['generators'][number],
): Project {
  const [numerator, denominator] = meter.split('/').map(Number) as [number, 4]
  const project: Project = {
    ...emptyProject('generated', name, 0),
    tempos: [{ tick: 0, tempoBpm }],
    meters: [{ tick: 0, numerator, denominator }],
    generators: [generator],
  }
  const endTicks = playingEndTicks(project) ?? contextOf(project).meterMap.measure(bars).startTicks
  const printed = printGenerators(project, [generator.id], { startTicks: 0, endTicks: Math.max(1, endTicks) })
  return {
    ...printed.project,
    tracks: printed.project.tracks.map((track) => ({ ...track, name: track.name.replace(/, printed$/, '') })),
  }
}
