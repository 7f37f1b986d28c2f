import { type Note, type NoteId, noteEndTicks } from '../event/note'
import { abbreviation } from '../notation/abbreviations'
import { type Amendment, type BarAmendment, isOfNote } from '../notation/amendments/amendment'
import { buildScore } from '../notation/buildScore'
import type { ScoreHeadings } from '../notation/headings'
import type { Manuscript } from '../notation/manuscript/manuscript'
import { type PlayedControls, playedControlsOf } from '../notation/playedControls'
import type { Score } from '../notation/score'
import type { ScoreSource } from '../notation/scoreSource'
import { transpositions, usualTransposition } from '../notation/transposition'
import { soundingControllers, soundingNotes } from './create'
import type { Project, ProjectHead, Track, Words } from './schema'
import { wordsOf } from './words'

/** Tracks that have a part in the score, in its order. */
function tracksOnPage({ tracks }: Pick<Project, 'tracks'>): Track[] {
  return tracks.filter((track) => track.isOnPage && soundingNotes(track).length > 0)
}

/** What of a project its page needs, beside the notes. */
export type PageHead = Pick<
  ProjectHead,
  'tempos' | 'meters' | 'sections' | 'words' | 'keys' | 'scoreSettings' | 'amendments' | 'page' | 'tracks'
>

/** A track as far as the page is concerned, whose notes are kept elsewhere. */
type WrittenTrack = Pick<Track, 'id' | 'name' | 'instrument' | 'staffSplitKey' | 'writtenAs'>

/** What is played on a track beside its notes, in what is heard of it. */
export function controlsOf(track: Track): PlayedControls {
  const notes = soundingNotes(track)
  const end = notes.reduce((last, note) => Math.max(last, noteEndTicks(note)), 0)
  return playedControlsOf(soundingControllers(track), end)
}

/** How the notes of a track are written, where what is heard of it came from a file of notation. */
export function manuscriptOfTrack({ clips }: Pick<Track, 'clips'>): Manuscript | null {
  return clips.find(({ isSounding, manuscript }) => isSounding && manuscript)?.manuscript ?? null
}

/** A track whose page is found from how it is played, not as its file wrote it. */
export function readAnew(track: Track): Track {
  return {
    ...track,
    clips: track.clips.map((clip) => {
      if (!clip.isSounding || !clip.manuscript) return clip
      const { manuscript: _manuscript, ...played } = clip
      // Lines and staves were the file's.
      const notes = clip.notes.map(
        ({ voice: _voice, staff: _staff, isVoiceByHand: _isByHand, ...note }) => note,
      )
      return { ...played, notes }
    }),
  }
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
      manuscript: manuscriptOfTrack(track),
    })),
  )
}

/**
 * What is to be written of a project whose notes are kept elsewhere.
 *
 * @param parts the tracks on the page that have notes, with these
 */
export function scoreSourceWith(
  project: Omit<PageHead, 'page' | 'tracks'>,
  parts: readonly {
    readonly track: WrittenTrack
    readonly notes: readonly Note[]
    readonly controls: PlayedControls
    readonly manuscript: Manuscript | null
  }[],
): ScoreSource {
  const { tempos, meters, sections, keys, scoreSettings } = project
  const amended = amendmentsByPart(project.amendments, parts)
  return {
    tempos,
    meters,
    sections,
    texts: textsOf(project, null, ['text', 'cue']),
    chordSymbols: textsOf(project, null, ['chord']),
    keys,
    settings: scoreSettings,
    amendments: amended.ofBars,
    homeless: amended.homeless,
    parts: parts.map(
      ({ track: { id, name, instrument, staffSplitKey, writtenAs }, notes, controls, manuscript }) => ({
        id,
        notes,
        controls,
        manuscript,
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
        texts: textsOf(project, id, ['text', 'cue']),
        amendments: amended.ofPart.get(id) ?? noAmendments,
      }),
    ),
  }
}

const noAmendments: readonly Amendment[] = []

/** Each change by hand with the part it is of: that of its note, or the one it names. */
function amendmentsByPart(
  amendments: readonly Amendment[],
  parts: Parameters<typeof scoreSourceWith>[1],
): {
  readonly ofPart: ReadonlyMap<string, readonly Amendment[]>
  readonly ofBars: readonly BarAmendment[]
  readonly homeless: readonly Amendment[]
} {
  const ofPart = new Map<string, Amendment[]>()
  const ofBars: BarAmendment[] = []
  const homeless: Amendment[] = []
  const homes = homesOf(amendments, parts)
  const onPage = new Set(parts.map(({ track }) => track.id))
  for (const amendment of amendments) {
    if (!isOfNote(amendment) && !('trackId' in amendment)) {
      ofBars.push(amendment)
      continue
    }
    const home = isOfNote(amendment) ? homes.get(amendment.noteId) : amendment.trackId
    if (home === undefined || !onPage.has(home)) homeless.push(amendment)
    else if (ofPart.has(home)) ofPart.get(home)!.push(amendment)
    else ofPart.set(home, [amendment])
  }
  return { ofPart, ofBars, homeless }
}

/** The part of each note that something was told of. */
function homesOf(
  amendments: readonly Amendment[],
  parts: Parameters<typeof scoreSourceWith>[1],
): ReadonlyMap<NoteId, string> {
  const wanted = new Set(amendments.flatMap((each) => (isOfNote(each) ? [each.noteId] : [])))
  const homes = new Map<NoteId, string>()
  if (wanted.size === 0) return homes
  for (const { track, notes } of parts)
    for (const { id } of notes) if (wanted.has(id)) homes.set(id, track.id)
  return homes
}

function textsOf(project: Pick<Project, 'words'>, trackId: string | null, kinds: readonly Words['kind'][]) {
  return wordsOf(project, trackId, kinds).map(({ tick, text }) => ({ tick, text: text.trim() }))
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
    parts: tracksOnPage(project).map(
      ({ name, shortName, instrument, bracket, keyNames, channel, volume, pan }) => ({
        name,
        shortName: shortName || abbreviation(name),
        instrument,
        bracket,
        keyNames,
        channel,
        volume,
        pan,
      }),
    ),
  }
}

/** The score of a project, written anew. */
export function scoreOf(project: Project): Score {
  return buildScore(scoreSourceOf(project))
}
