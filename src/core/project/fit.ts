import type { z } from '../border/checks'
import { takeInfoSchema } from '../capture/takeInfo'
import { generatorSchema } from '../generators/generator'
import { headOfTrack } from './content'
import { clipProblem } from './notesFit'
import {
  assetSchema,
  type Project,
  projectHeadSchema,
  sourceSchema,
  type Track,
  trackWithClipsSchema,
} from './schema'

/** Lists of a project whose elements are looked at one by one. */
const elementSchemas = {
  sources: sourceSchema,
  takes: takeInfoSchema,
  generators: generatorSchema,
  assets: assetSchema,
} as const

type ListName = keyof typeof elementSchemas

const headShape = projectHeadSchema.shape

/**
 * Whether a project could be stored and read again as it is; only what differs from the one before is looked at.
 *
 * @returns a sentence that says what does not fit; null when all does
 */
export function misfit(next: Project, before: Project | null): string | null {
  for (const name of Object.keys(headShape) as (keyof typeof headShape)[]) {
    if (before && next[name] === before[name]) continue
    const problem = name === 'tracks' ? tracksMisfit(next, before) : fieldMisfit(name, next, before)
    if (problem) return problem
  }
  return null
}

function fieldMisfit(name: Exclude<keyof typeof headShape, 'tracks'>, next: Project, before: Project | null) {
  const isList = (field: string): field is ListName => field in elementSchemas
  if (!isList(name)) return sentenceOf(headShape[name].safeParse(next[name]), [name])
  const known = new Set<unknown>(before?.[name])
  for (const [index, element] of next[name].entries()) {
    if (known.has(element)) continue
    const problem = sentenceOf(elementSchemas[name].safeParse(element), [name, index])
    if (problem) return problem
  }
  const most = mostOf[name]
  return most !== undefined && next[name].length > most ? tooMany(name, most) : null
}

const mostOf: Partial<Record<ListName, number>> = { generators: 64 }

function tracksMisfit(next: Project, before: Project | null): string | null {
  const known = new Set<Track>(before?.tracks)
  const knownClips = new Set(before?.tracks.flatMap((track) => track.clips))
  for (const [index, track] of next.tracks.entries()) {
    if (known.has(track)) continue
    const problem = sentenceOf(trackWithClipsSchema.safeParse(headOfTrack(track)), ['tracks', index])
    if (problem) return problem
    for (const clip of track.clips) {
      if (knownClips.has(clip)) continue
      const inClip = clipProblem(clip)
      if (inClip) return `A note or controller on ${track.name} cannot be kept: ${inClip}.`
    }
  }
  return null
}

/** What the lists and texts of a project are called where one is full: what holds, and of what. */
const words: Readonly<Record<string, readonly [holder: string, unit: string]>> = {
  name: ['A name', 'letters'],
  subtitle: ['A subtitle', 'letters'],
  description: ['A description', 'letters'],
  portName: ['The name of a port', 'letters'],
  portId: ['The identifier of a port', 'letters'],
  group: ['The name of a group', 'letters'],
  chart: ['A chord chart', 'letters'],
  text: ['Typed music', 'letters'],
  effects: ['A chain', 'effects'],
  slots: ['A chain', 'effects'],
  effectChanges: ['A track', 'changes of its effects'],
  changes: ['A take', 'changes of effects'],
  movements: ['An effect', 'settings that move'],
  generators: ['A piece', 'generators'],
  sections: ['A piece', 'sections'],
  words: ['A piece', 'syllables and texts'],
  amendments: ['A piece', 'changes of its page by hand'],
  keyNames: ['A kit', 'names of keys'],
  lanes: ['A generator', 'lanes'],
  steps: ['A lane', 'steps'],
  routes: ['A track', 'ways into it'],
  cables: ['A piece', 'cables'],
  sendTo: ['A piece', 'receivers of its clock'],
}

function tooMany(name: string, most: number): string {
  const [holder, unit] = words[name] ?? [`“${name}”`, 'entries']
  return `${holder} can hold up to ${most.toLocaleString('en')} ${unit}.`
}

function sentenceOf(
  parsed: { readonly success: true } | { readonly success: false; readonly error: z.ZodError },
  place: readonly PropertyKey[],
): string | null {
  if (parsed.success) return null
  const issue = parsed.error.issues[0]!
  const path = [...place, ...issue.path]
  const name = [...path].reverse().find((step) => typeof step === 'string') as string
  if (issue.code === 'too_big' && issue.origin !== 'number' && issue.origin !== 'int')
    return tooMany(name, Number(issue.maximum))
  return `That could not be stored: at “${path.join('.')}”, ${issue.message}.`
}
