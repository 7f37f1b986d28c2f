import { type Note, noteEndTicks } from '../event/note'
import { buildScore } from '../notation/buildScore'
import type { ScoreHeadings } from '../notation/headings'
import { type PlayedControls, playedControlsOf } from '../notation/playedControls'
import type { Score } from '../notation/score'
import type { ScoreSource } from '../notation/scoreSource'
import { transpositions, usualTransposition } from '../notation/transposition'
import { soundingControllers, soundingNotes } from './create'
import type { Project, Track } from './schema'
import { wordsOf } from './words'

/** Tracks that have a part in the score, in its order. */
function tracksOnPage({ tracks }: Pick<Project, 'tracks'>): Track[] {
  return tracks.filter((track) => track.isOnPage && soundingNotes(track).length > 0)
}

/** A track as far as the page is concerned, whose notes are kept elsewhere. */
type WrittenTrack = Pick<Track, 'id' | 'name' | 'instrument' | 'staffSplitKey' | 'writtenAs'>

/** What is played on a track beside its notes, in what is heard of it. */
export function controlsOf(track: Track): PlayedControls {
  const notes = soundingNotes(track)
  const end = notes.reduce((last, note) => Math.max(last, noteEndTicks(note)), 0)
  return playedControlsOf(soundingControllers(track), end)
}

/** What is to be written of a project. */
export function scoreSourceOf(
  project: Parameters<typeof scoreSourceWith>[0] & Pick<Project, 'tracks'>,
): ScoreSource {
  return scoreSourceWith(
    project,
    tracksOnPage(project).map((track) => ({
      track,
      notes: soundingNotes(track),
      controls: controlsOf(track),
    })),
  )
}

/**
 * What is to be written of a project whose notes are kept elsewhere.
 *
 * @param parts the tracks on the page that have notes, with these
 */
export function scoreSourceWith(
  project: Pick<Project, 'tempos' | 'meters' | 'sections' | 'words' | 'keys' | 'scoreSettings'>,
  parts: readonly {
    readonly track: WrittenTrack
    readonly notes: readonly Note[]
    readonly controls: PlayedControls
  }[],
): ScoreSource {
  const { tempos, meters, sections, keys, scoreSettings } = project
  return {
    tempos,
    meters,
    sections,
    texts: textsOf(project, null),
    keys,
    settings: scoreSettings,
    parts: parts.map(({ track: { id, name, instrument, staffSplitKey, writtenAs }, notes, controls }) => ({
      id,
      notes,
      controls,
      instrument,
      staffSplitKey,
      transposition:
        transpositions[
          scoreSettings.isConcertPitch
            ? 'as it sounds'
            : writtenAs === 'auto'
              ? usualTransposition(instrument, name)
              : writtenAs
        ],
      sung: wordsOf(project, id, ['lyric']).map(({ tick, text }) => ({ tick, text })),
      texts: textsOf(project, id),
    })),
  }
}

function textsOf(project: Pick<Project, 'words'>, trackId: string | null) {
  return wordsOf(project, trackId, ['text', 'cue']).map(({ tick, text }) => ({ tick, text: text.trim() }))
}

/** What stands above the score of a project and beside its staves. */
export function headingsOf(
  project: Pick<Project, 'name' | 'subtitle' | 'composer' | 'arranger' | 'rights' | 'tracks'>,
): ScoreHeadings {
  return {
    title: project.name,
    subtitle: project.subtitle,
    composer: project.composer,
    arranger: project.arranger,
    rights: project.rights,
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
