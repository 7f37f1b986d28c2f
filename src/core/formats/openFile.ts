import { strFromU8, unzipSync } from 'fflate'
import { FileProblem } from '../border/fileProblem'
import { unpack } from '../border/unpack'
import { readMidiFile } from '../midi/standardMidiFile/read'
import type { WrittenMusic } from '../notation/writtenMusic/writtenMusic'
import { soundingNotes } from '../project/create'
import type { AsidePart } from '../project/salvage'
import type { Project } from '../project/schema'
import { ImportError, midiToProject } from './midiToProject'
import { largestUnpackedBytes, type ProjectFile, readProjectFile } from './projectFile'
import { isAbc, readAbc } from './readAbc/readAbc'
import { readMei } from './readMei/readMei'
import { readMusicXml } from './readMusicXml/readMusicXml'
import { scoreToProject } from './scoreToProject'
import { childrenOf, readXml, type XmlElement, XmlError } from './xmlTree'

/** Kinds of files that can be opened, told apart by what is in them. */
export const fileKinds = ['midi', 'musicxml', 'mxl', 'mei', 'abc', 'project'] as const
export type FileKind = (typeof fileKinds)[number]

/** Endings of names of files that can be opened, for the system's file dialog. */
export const openableEndings = [
  '.mid',
  '.midi',
  '.smf',
  '.kar',
  '.musicxml',
  '.mxl',
  '.xml',
  '.mei',
  '.abc',
  '.voice',
] as const

/** What was opened: a piece, and of a project file its takes and what lies with it. */
export interface OpenedFile {
  readonly kind: FileKind
  readonly project: Project
  readonly warnings: readonly string[]
  readonly takes: ProjectFile['takes']
  readonly assets: ProjectFile['assets']
  readonly sounds: ProjectFile['sounds']
  readonly aside: readonly AsidePart[]
}

/** What may be opened at once. */
export interface OpeningLimits {
  readonly mostEvents: number
  readonly mostNotes: number
  /** Of an archive, when it is unpacked. */
  readonly mostUnpackedBytes: number
}

const unlimited: OpeningLimits = {
  mostEvents: Infinity,
  mostNotes: Infinity,
  mostUnpackedBytes: largestUnpackedBytes,
}

/**
 * Opens a file of any kind that is known, by what is in it, whatever it is called.
 *
 * @throws FileProblem
 */
export function openFile(
  bytes: Uint8Array,
  identity: { readonly id: string; readonly name: string; readonly nowMs: number },
  limits: Partial<OpeningLimits> = {},
): OpenedFile {
  const { mostEvents, mostNotes, mostUnpackedBytes } = { ...unlimited, ...limits }
  const kind = kindOfFile(bytes)
  const opened = ((): Omit<OpenedFile, 'kind'> => {
    switch (kind) {
      case 'project': {
        const { project, takes, assets, sounds, aside } = readProjectFile(bytes, mostUnpackedBytes)
        const warnings = aside.map(({ reason }) => `${reason}; it was left out and kept aside.`)
        return { project, takes, assets, sounds, aside, warnings }
      }
      case 'midi':
        return { ...noTakes, ...midiToProject(readMidiFile(bytes, mostEvents), identity) }
      case 'mxl':
        return openWritten(readMusicXml(decoded(scoreInArchive(bytes, mostUnpackedBytes))), identity)
      case 'musicxml':
        return openWritten(readMusicXml(decoded(bytes)), identity)
      case 'mei':
        return openWritten(readMei(decoded(bytes)), identity)
      case 'abc':
        return openWritten(readAbc(decoded(bytes)), identity)
    }
  })()
  const notes = opened.project.tracks.reduce((sum, track) => sum + soundingNotes(track).length, 0)
  if (notes > mostNotes)
    throw new ImportError(
      `The file has ${notes.toLocaleString('en')} notes; up to ${mostNotes.toLocaleString('en')} are taken at once`,
    )
  return { kind, ...opened }
}

const noTakes = { takes: [], assets: [], sounds: [], aside: [] } as const

function openWritten(
  { music, warnings }: { readonly music: WrittenMusic; readonly warnings: readonly string[] },
  identity: Parameters<typeof scoreToProject>[1],
): Omit<OpenedFile, 'kind'> {
  const { project, warnings: further } = scoreToProject(music, identity)
  return { ...noTakes, project, warnings: [...warnings, ...further] }
}

/** What a file is, by how it begins. */
export function kindOfFile(bytes: Uint8Array): FileKind {
  if (bytes.length === 0) throw new FileProblem('The file is empty: it has zero bytes')
  const begins = (text: string) => [...text].every((letter, index) => bytes[index] === letter.charCodeAt(0))
  if (begins('MThd') || begins('RIFF')) return 'midi'
  if (begins('PK')) return isScoreArchive(bytes) ? 'mxl' : 'project'
  const text = decoded(bytes.subarray(0, 4000)).trimStart()
  if (text.startsWith('<')) return isMei(text) ? 'mei' : 'musicxml'
  if (isAbc(text)) return 'abc'
  // What is no text is told by the reader of MIDI files, which says what it found.
  return 'midi'
}

/** Text of a file in the encoding it says: that of its first bytes, or of its XML declaration; UTF-8 where it says nothing. */
export function decoded(bytes: Uint8Array): string {
  const [a, b] = bytes
  if (a === 0xff && b === 0xfe) return new TextDecoder('utf-16le').decode(bytes)
  if (a === 0xfe && b === 0xff) return new TextDecoder('utf-16be').decode(bytes)
  const head = strFromU8(bytes.subarray(0, 200), true)
  const said = /^\s*<\?xml[^>]*encoding=["']([\w-]+)["']/.exec(head)?.[1] ?? 'utf-8'
  try {
    return new TextDecoder(said).decode(bytes)
  } catch {
    throw new FileProblem(`The file says that it is in the encoding "${said}", which is not known`)
  }
}

/** The first element of the file is that of MEI, or names its namespace. */
function isMei(head: string): boolean {
  const first = /<(?![?!])([\w:.-]+)[^>]*/.exec(head)
  return (
    first?.[1] === 'mei' || first?.[1] === 'music' || (first?.[0].includes('www.music-encoding.org') ?? false)
  )
}

const containerName = 'META-INF/container.xml'

function isScoreArchive(bytes: Uint8Array): boolean {
  let isFound = false
  try {
    unzipSync(bytes, {
      filter({ name }) {
        isFound ||= name === containerName || /\.(musicxml|xml)$/i.test(name)
        return false
      },
    })
  } catch {
    // A damaged archive is told by who unpacks it.
    return false
  }
  return isFound
}

/**
 * The score in a compressed MusicXML file: the one its container names first. Nothing else in it is unpacked.
 *
 * Source: MusicXML 4.0, "Compressed .MXL files".
 */
function scoreInArchive(bytes: Uint8Array, mostBytes: number): Uint8Array {
  const entry = (wanted: (name: string) => boolean): Uint8Array | undefined => {
    let taken: string | null = null
    return Object.values(
      unpack(bytes, mostBytes, (name) => {
        if (taken !== null || !wanted(name)) return false
        taken = name
        return true
      }),
    )[0]
  }
  const container = entry((name) => name === containerName)
  const named = container ? rootFile(decoded(container)) : undefined
  const score = entry(
    named === undefined
      ? (name) => /\.(musicxml|xml)$/i.test(name) && !name.startsWith('META-INF/')
      : (name) => name === named,
  )
  if (!score)
    throw new FileProblem(
      named === undefined
        ? 'The archive has no score in it'
        : `The archive names "${named}", which is not in it`,
    )
  return score
}

function rootFile(container: string): string | undefined {
  let found: string | undefined
  try {
    readXml(container, new Set(['rootfiles']), (rootfiles: XmlElement) => {
      found ??= childrenOf(rootfiles, 'rootfile')[0]?.attributes['full-path']
    })
  } catch (error) {
    if (error instanceof XmlError) return undefined
    throw error
  }
  return found
}
