import { writeMidiFile } from '../midi/standardMidiFile/write'
import type { ScoreHeadings } from '../notation/headings'
import type { Score } from '../notation/score'
import type { Project } from '../project/schema'
import { compressMusicXml } from './compressedMusicXml'
import { writeMusicXml } from './musicXml'
import { projectToMidi } from './projectToMidi'
import { writeAbc } from './writeAbc'

/** Forms of a file that need no engraver, no instrument and no printer. */
export const writtenForms = ['mid', 'musicxml', 'mxl', 'abc'] as const
export type WrittenForm = (typeof writtenForms)[number]

export const mediaTypes: Readonly<Record<WrittenForm, string>> = {
  mid: 'audio/midi',
  musicxml: 'application/vnd.recordare.musicxml+xml; charset=utf-8',
  mxl: 'application/vnd.recordare.musicxml',
  abc: 'text/vnd.abc; charset=utf-8',
}

/** Ticks of a quarter in MIDI files that are written. */
const divisionTicksPerQuarter = 960

/** A piece in one of the forms: what is played of it, or what is written. */
export function writeForm(
  form: WrittenForm,
  {
    project,
    score,
    headings,
  }: { readonly project: Project; readonly score: Score; readonly headings: ScoreHeadings },
): Uint8Array {
  switch (form) {
    case 'mid':
      return writeMidiFile(projectToMidi(project, project.tracks, divisionTicksPerQuarter))
    case 'musicxml':
      return new TextEncoder().encode(writeMusicXml(score, headings, { page: project.page }))
    case 'mxl':
      return compressMusicXml(writeMusicXml(score, headings, { page: project.page }))
    case 'abc':
      return new TextEncoder().encode(writeAbc(score, headings).text)
  }
}
