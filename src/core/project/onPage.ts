import { buildScore, type ScoreSource } from '../notation/buildScore'
import type { ScoreHeadings } from '../notation/headings'
import type { Score } from '../notation/score'
import { soundingNotes } from './create'
import type { Project, Track } from './schema'

/** Tracks that have a part in the score, in its order. */
function tracksOnPage({ tracks }: Pick<Project, 'tracks'>): Track[] {
  return tracks.filter((track) => track.isOnPage && soundingNotes(track).length > 0)
}

/** What is to be written of a project. */
export function scoreSourceOf(
  project: Pick<Project, 'tempos' | 'meters' | 'sections' | 'key' | 'scoreSettings' | 'tracks'>,
): ScoreSource {
  const { tempos, meters, sections, key, scoreSettings } = project
  return {
    tempos,
    meters,
    sections,
    key,
    settings: scoreSettings,
    parts: tracksOnPage(project).map((track) => ({
      id: track.id,
      notes: soundingNotes(track),
      instrument: track.instrument,
      staffSplitKey: track.staffSplitKey,
    })),
  }
}

/** What stands above the score of a project and beside its staves. */
export function headingsOf(project: Pick<Project, 'name' | 'subtitle' | 'tracks'>): ScoreHeadings {
  return {
    title: project.name,
    subtitle: project.subtitle,
    parts: tracksOnPage(project).map(({ name, instrument, channel, volume, pan }) => ({
      name,
      instrument,
      channel,
      volume,
      pan,
    })),
  }
}

/** The score of a project, written anew. */
export function scoreOf(project: Project): Score {
  return buildScore(scoreSourceOf(project))
}
