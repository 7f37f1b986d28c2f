import { z } from '../border/checks'
import { clickSchema } from '../capture/clickSettings'
import { longestName } from '../text/bounded'
import { newTrack } from './create'
import { migrateTemplate, ProjectFormatError } from './migrate'
import { type Project, projectHeadSchema, sourceSchema, trackHeadSchema } from './schema'

/** A connection set-up without music: who plays, where it goes, how recording begins. */
export const templateSchema = z.object({
  templateVersion: z.literal(6),
  id: z.string().min(1).max(100),
  name: z.string().min(1).max(longestName),
  savedAtMs: z.number(),
  sources: z.array(sourceSchema),
  tracks: z.array(trackHeadSchema),
  click: clickSchema,
  countIn: projectHeadSchema.shape.countIn,
  clock: projectHeadSchema.shape.clock,
  cables: projectHeadSchema.shape.cables,
  foldedGroups: projectHeadSchema.shape.foldedGroups,
})

export type Template = Readonly<z.infer<typeof templateSchema>>

const earlierVersion = z.looseObject({ templateVersion: z.number().int().min(1).max(5) })

/** Files that play as players stay with their project; everything else of the wiring goes into the template. */
export function templateOf(project: Project, id: string, name: string, nowMs: number): Template {
  const sources = project.sources.filter((source) => source.kind !== 'midiFile')
  const { click, countIn, clock, cables, foldedGroups } = project
  return {
    templateVersion: 6,
    id,
    name,
    savedAtMs: nowMs,
    sources: [...sources],
    tracks: project.tracks
      .filter((track) => track.routes.length > 0 || track.sendTo !== null)
      .map(({ clips: _clips, ...head }) => ({
        ...head,
        effects: [...head.effects],
        effectChanges: [],
        doEffectsRest: false,
        isMuted: false,
        isSolo: false,
        madeFrom: null,
      })),
    click,
    countIn,
    clock,
    cables,
    foldedGroups,
  }
}

/** Sets a project up as a template says. Tracks that have music stay, and hear nobody. */
export function applyTemplate(project: Project, template: Template): Project {
  const withMusic = project.tracks
    .filter((track) => track.clips.length > 0)
    .map((track) => ({ ...track, routes: [], isArmed: false }))
  const start: Project = {
    ...project,
    sources: template.sources,
    tracks: withMusic,
    click: template.click,
    countIn: template.countIn,
    clock: template.clock,
    cables: template.cables,
    foldedGroups: template.foldedGroups,
  }
  return template.tracks.reduce((next, { id: _id, ...head }) => newTrack(next, head).project, start)
}

/**
 * Reads a template from storage or a file.
 *
 * @throws ProjectFormatError that names the place
 */
export function readTemplate(stored: unknown): Template {
  const earlier = earlierVersion.safeParse(stored)
  const parsed = templateSchema.safeParse(earlier.success ? migrateTemplate(earlier.data) : stored)
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]!
  throw new ProjectFormatError(`The set-up cannot be read: at "${issue.path.join('.')}", ${issue.message}`)
}
