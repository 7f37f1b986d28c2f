import { keyName } from '../event/note'
import { programNames } from '../midi/generalMidi'
import { contextOf } from '../project/context'
import { projectEndTicks, soundingNotes } from '../project/create'
import type { Project } from '../project/schema'

/** A file of a parcel, with what was found when it was read back; null for what is not read back. */
export interface ParcelFile {
  readonly fileName: string
  readonly check: string | null
}

/** Letters of a name in the list, so that its columns stand under each other. */
const nameLetters = 34

/**
 * What is in a parcel for a collaborator, as plain text: the piece with its tempo, meter and key, its instruments with their ranges, and
 * each file with how it was checked.
 */
export function contentsOfParcel(project: Project, files: readonly ParcelFile[]): string {
  const { meterMap, tempoMap } = contextOf(project)
  const endTicks = projectEndTicks(project)
  const seconds = Math.round(tempoMap.msAt(endTicks) / 1000)
  const bars = endTicks === 0 ? 0 : meterMap.measureAt(endTicks - 1).index + 1
  const tempos = project.tempos.map(({ tempoBpm }) => Math.round(tempoBpm))
  const [slowest, fastest] = [Math.min(...tempos), Math.max(...tempos)]
  const meters = [
    ...new Set(project.meters.map(({ numerator, denominator }) => `${numerator}/${denominator}`)),
  ]
  const column = (text: string) => text.slice(0, nameLetters).padEnd(nameLetters + 2)
  const lines = [
    project.name,
    ...(project.subtitle ? [project.subtitle] : []),
    ...(project.composer ? [`by ${project.composer}`] : []),
    ...(project.rights ? [project.rights] : []),
    '',
    `${bars} bars, ${Math.floor(seconds / 60)} min ${seconds % 60} s`,
    `Tempo: ${slowest === fastest ? slowest : `${slowest} to ${fastest}`} quarters a minute`,
    `Meter: ${meters.join(', ')}`,
    '',
    'Parts',
    ...project.tracks.flatMap((track) => {
      const notes = soundingNotes(track)
      if (notes.length === 0) return []
      const keys = notes.map(({ key }) => key)
      const { instrument } = track
      const sound =
        instrument.kind === 'drums'
          ? 'drums'
          : instrument.kind === 'program'
            ? programNames[instrument.program]!
            : 'no sound of its own'
      const range =
        instrument.kind === 'drums' ? '' : `, ${keyName(Math.min(...keys))} to ${keyName(Math.max(...keys))}`
      return [
        `  ${column(track.name)}${sound}${range}, ${notes.length.toLocaleString('en')} notes, channel ${track.channel}`,
      ]
    }),
    '',
    'Files',
    ...files.map(({ fileName, check }) => `  ${column(fileName)}${check ?? ''}`.trimEnd()),
    '',
    'Written by Unbroken Voice. Files that say so were read back by another program and compared note for note.',
    '',
  ]
  return lines.join('\r\n')
}
