import { changeTrack } from './commands'
import type { Project, Source, Track } from './schema'

/** Settings of a piece; its tracks, sources, takes and notes have commands of their own. */
export type PieceSettings = Partial<
  Pick<
    Project,
    | 'name'
    | 'subtitle'
    | 'composer'
    | 'arranger'
    | 'rights'
    | 'countIn'
    | 'click'
    | 'recording'
    | 'isListening'
    | 'backing'
    | 'keys'
    | 'tempos'
    | 'meters'
  >
>

export function setPiece(project: Project, settings: PieceSettings): Project {
  return { ...project, ...settings }
}

/** Settings of a track; its identity, clips and origin stay. */
export type TrackSettings = Partial<Omit<Track, 'id' | 'thread' | 'clips' | 'madeFrom'>>

export function setTrack(project: Project, trackId: string, settings: TrackSettings): Project {
  return changeTrack(project, trackId, (track) => ({ ...track, ...settings }))
}

export function armEveryTrack(project: Project): Project {
  return { ...project, tracks: project.tracks.map((track) => ({ ...track, isArmed: true })) }
}

export type SourceSettings = Partial<Omit<Source, 'id'>>

export function setSource(project: Project, sourceId: string, settings: SourceSettings): Project {
  return {
    ...project,
    sources: project.sources.map((source) => (source.id === sourceId ? { ...source, ...settings } : source)),
  }
}

export function setRecording(project: Project, settings: Partial<Project['recording']>): Project {
  return { ...project, recording: { ...project.recording, ...settings } }
}

/** How performances are read for the page. */
export function setReading(project: Project, settings: Partial<Project['scoreSettings']>): Project {
  return { ...project, scoreSettings: { ...project.scoreSettings, ...settings } }
}

/** How the piece is laid out on paper. */
export function setPage(project: Project, settings: Partial<Project['page']>): Project {
  return { ...project, page: { ...project.page, ...settings } }
}

export function setClock(project: Project, settings: Partial<Project['clock']>): Project {
  return { ...project, clock: { ...project.clock, ...settings } }
}

export function renameTake(project: Project, takeSerial: number, name: string): Project {
  return {
    ...project,
    takes: project.takes.map((take) => (take.serial === takeSerial ? { ...take, name } : take)),
  }
}

/** A remark about the wiring that is meant so is not made again. */
export function acceptRemark(project: Project, remarkId: string): Project {
  return { ...project, acceptedRemarks: withOrWithout(project.acceptedRemarks, remarkId, true) }
}

export function foldGroup(project: Project, name: string, isFolded: boolean): Project {
  return { ...project, foldedGroups: withOrWithout(project.foldedGroups, name, isFolded) }
}

/** Whether what plays on a virtual cable takes seats in this piece. */
export function readCable(project: Project, name: string, isRead: boolean): Project {
  return { ...project, cables: withOrWithout(project.cables, name, isRead) }
}

function withOrWithout(list: readonly string[], word: string, isIn: boolean): string[] {
  const others = list.filter((each) => each !== word)
  return isIn ? [...others, word] : others
}
