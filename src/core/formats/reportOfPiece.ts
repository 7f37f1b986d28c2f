import { contextOf } from '../project/context'
import { projectEndTicks, soundingNotes } from '../project/create'
import type { Project } from '../project/schema'
import type { FileKind } from './openFile'

/** What is in a piece that was opened from a file, for people and programs to read. */
export function reportOfPiece(kind: FileKind, project: Project) {
  const { meterMap, tempoMap } = contextOf(project)
  const endTicks = projectEndTicks(project)
  const tracks = project.tracks.map((track) => {
    const notes = soundingNotes(track)
    const keys = notes.map(({ key }) => key)
    return {
      name: track.name,
      instrument: track.instrument,
      channel: track.channel,
      writtenAs: track.writtenAs,
      notes: notes.length,
      lowestKey: keys.length > 0 ? Math.min(...keys) : null,
      highestKey: keys.length > 0 ? Math.max(...keys) : null,
    }
  })
  return {
    kind,
    title: project.name,
    composer: project.composer,
    bars: endTicks === 0 ? 0 : meterMap.measureAt(endTicks - 1).index + 1,
    seconds: Math.round(tempoMap.msAt(endTicks)) / 1000,
    tempos: project.tempos.length,
    meters: project.meters.map(({ numerator, denominator }) => `${numerator}/${denominator}`),
    keys: project.keys.map(({ fifths, mode }) => ({ fifths, mode })),
    notes: tracks.reduce((sum, { notes }) => sum + notes, 0),
    tracks,
  }
}
