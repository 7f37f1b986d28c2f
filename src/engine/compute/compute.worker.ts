import { expose, transfer } from 'comlink'
import { type FoundBars, findBars } from '@/core/beats/findBars'
import type { TimedNote } from '@/core/beats/strokes'
import { noteEndTicks } from '@/core/event/note'
import { type NoteColumns, unpackNotes } from '@/core/event/noteColumns'
import { compressMusicXml } from '@/core/formats/compressedMusicXml'
import { writeMusicXml } from '@/core/formats/musicXml'
import type { MusicXmlVersion } from '@/core/formats/musicXmlOptions'
import { type OpenedFile, openFile } from '@/core/formats/openFile'
import { packFiles } from '@/core/formats/packFiles'
import { type ProjectFile, writeProjectFile } from '@/core/formats/projectFile'
import { inOneTrack, type MidiFormat, projectToMidi } from '@/core/formats/projectToMidi'
import { reportOf, type ScoreReport } from '@/core/formats/scoreFromFile'
import { writeAbc } from '@/core/formats/writeAbc'
import { writeMidiFile } from '@/core/midi/standardMidiFile/write'
import type { ScoreHeadings } from '@/core/notation/headings'
import type { Score } from '@/core/notation/score'
import { pieceAsWritten } from '@/core/project/asWritten'
import { headingsOf, scoreOf } from '@/core/project/onPage'
import type { Project } from '@/core/project/schema'
import { type Proof, provedOrUnread } from '@/core/proof/compare'
import { proveAbc } from '@/core/proof/proveAbc'
import { proveMei } from '@/core/proof/proveMei'
import { proveMidi } from '@/core/proof/proveMidi'
import { type IndependentReader, proveMusicXml } from '@/core/proof/proveMusicXml'
import { safeFileName } from '@/core/separation/splitFile'
import { type TakenApart, takeApart, type Way } from '@/core/separation/takeApart'
import { writeWav } from '@/core/sound/wav'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import { loadVerovio, meiOf, midiOf } from '../engraver/verovio'
import { readersInThreads } from './readers'

/** A file that was written, read back and compared. */
export interface ProvedFile {
  readonly fileName: string
  readonly mimeType: string
  readonly bytes: Uint8Array
  readonly proof: Proof
  /** Who read it back. */
  readonly reader: string
  /** What of the page has no place in this form, in words. */
  readonly leftOut?: readonly string[]
}

let verovio: ReturnType<typeof loadVerovio> | undefined

function engraver() {
  verovio ??= loadVerovio()
  return verovio
}

/** From so many parts on, reading back is shared among threads. */
const manyParts = 8

/** This thread as a reader, for what is small. */
async function readerHere(): Promise<IndependentReader & { end(): void }> {
  const toolkit = await engraver()
  return { midiOf: (musicXml) => midiOf(toolkit, musicXml), end() {} }
}

const api = {
  /** A file of any kind that is known. */
  open(bytes: Uint8Array, identity: { id: string; name: string; nowMs: number }): OpenedFile {
    return openFile(bytes, identity)
  },

  /** Files as one zip archive; of two with the same name the second gets a number. */
  pack(files: readonly { readonly fileName: string; readonly bytes: Uint8Array }[]): Uint8Array {
    const bytes = packFiles(files)
    return transfer(bytes, [bytes.buffer])
  },

  exportProject(file: ProjectFile): Uint8Array {
    const bytes = writeProjectFile(file)
    return transfer(bytes, [bytes.buffer])
  },

  /** Sound that was kept, as a WAV file: what was stored, step for step. An hour of it is too much to be copied in the window. */
  keptWav(samples: Float32Array, sampleRate: number): Blob {
    return new Blob([writeWav(samples, sampleRate, 16, true) as BlobPart], { type: 'audio/wav' })
  },

  /** Beats and bars of what was played without a click; null where there is too little to find any in. */
  findBars(notes: readonly TimedNote[]): FoundBars | null {
    return findBars(notes)
  },

  /** Takes notes apart; the parts hold their indexes. */
  takeApart(
    columns: NoteColumns,
    way: Way,
    {
      sources,
      togetherQuarters,
    }: { readonly sources: readonly string[] | null; readonly togetherQuarters: number },
  ): TakenApart {
    const notes = unpackNotes(columns).map((note, index) => ({
      onsetQuarters: note.onsetTicks / TICKS_PER_QUARTER,
      endQuarters: noteEndTicks(note) / TICKS_PER_QUARTER,
      key: note.key,
      velocity: note.velocity,
      channel: note.channel,
      ...(sources && { source: sources[index]! }),
      ...(note.voice !== undefined && { voice: note.voice }),
      ...(note.isVoiceByHand && { isVoiceByHand: true }),
    }))
    return takeApart(notes, way, togetherQuarters)
  },

  /** MusicXML, plain and compressed, of the whole and, where that is wished, of each part; proved by verovio. */
  async deliverMusicXml(
    project: Project,
    version: MusicXmlVersion,
    withEachPart: boolean,
  ): Promise<{ files: ProvedFile[]; parts: ProvedFile[]; report: ScoreReport }> {
    // They load while the page is written.
    const isLarge = project.tracks.filter(({ isOnPage }) => isOnPage).length >= manyParts
    const readers = isLarge ? readersInThreads() : await readerHere()
    try {
      const score = scoreOf(project)
      const headings = headingsOf(project)
      const writtenOn = new Date().toISOString().slice(0, 10)
      const name = safeFileName(project.name)
      const write = async (of: Score, named: ScoreHeadings, fileName: string) => {
        const musicXml = writeMusicXml(of, named, { version, writtenOn, page: project.page })
        const file: ProvedFile = {
          fileName: `${fileName}.musicxml`,
          mimeType: 'application/vnd.recordare.musicxml+xml',
          bytes: new TextEncoder().encode(musicXml),
          proof: await proveMusicXml(musicXml, of, named, readers),
          reader: 'verovio, from the written note values',
        }
        return { musicXml, file }
      }
      const { musicXml, file } = await write(score, headings, name)
      const packed: ProvedFile = {
        ...file,
        fileName: `${name}.mxl`,
        mimeType: 'application/vnd.recordare.musicxml',
        bytes: compressMusicXml(musicXml),
      }
      const parts: ProvedFile[] = []
      for (const [index, part] of withEachPart ? score.parts.entries() : []) {
        const heading = headings.parts[index]!
        const number = String(index + 1).padStart(2, '0')
        const one = await write(
          { ...score, parts: [part] },
          { ...headings, parts: [heading] },
          `${number} ${safeFileName(heading.name)}`,
        )
        parts.push(one.file)
      }
      return { report: reportOf(score, headings), files: [file, packed], parts }
    } finally {
      readers.end()
    }
  },

  /** MEI, written by verovio and proved by the reader here, and ABC, proved with the parser of abcjs. */
  async deliverMeiAndAbc(project: Project): Promise<ProvedFile[]> {
    const score = scoreOf(project)
    const headings = headingsOf(project)
    const name = safeFileName(project.name)
    const mei = meiOf(await engraver(), writeMusicXml(score, headings))
    const abc = writeAbc(score, headings)
    return [
      {
        fileName: `${name}.mei`,
        mimeType: 'application/mei+xml',
        bytes: new TextEncoder().encode(mei),
        proof: provedOrUnread(() => proveMei(mei, score, headings)),
        reader: 'the reader of MEI here; verovio wrote it',
      },
      {
        fileName: `${name}.abc`,
        mimeType: 'text/vnd.abc',
        bytes: new TextEncoder().encode(abc.text),
        proof: provedOrUnread(() => proveAbc(abc.text, score, headings)),
        reader: 'abcjs, note by note',
        leftOut: abc.leftOut,
      },
    ]
  },

  /** The whole piece as one MIDI file and each track as its own, proved by the package midi-file. */
  deliverMidi(
    played: Project,
    division: number,
    isAsWritten: boolean,
    format: MidiFormat,
  ): { whole: ProvedFile; stems: ProvedFile[] } {
    const project = isAsWritten ? pieceAsWritten(played, scoreOf(played)) : played
    const name = safeFileName(project.name)
    const tracks = project.tracks.filter(
      (track) =>
        track.isOnPage &&
        track.clips.some((clip) => clip.isSounding && clip.notes.length + clip.controllers.length > 0),
    )
    const write = (fileName: string, chosen: typeof tracks): ProvedFile => {
      const file = projectToMidi(project, chosen, division)
      const bytes = writeMidiFile(format === 0 ? inOneTrack(file) : file)
      return {
        fileName,
        mimeType: 'audio/midi',
        bytes,
        proof: proveMidi(bytes, chosen),
        reader: 'midi-file, event by event',
      }
    }
    return {
      whole: write(`${name}.mid`, tracks),
      stems: tracks.map((track, index) =>
        write(`${String(index + 1).padStart(2, '0')} ${safeFileName(track.name)}.mid`, [track]),
      ),
    }
  },
}

export type ComputeApi = typeof api
expose(api)
