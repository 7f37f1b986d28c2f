import { FileProblem } from '../../border/fileProblem'
import { swingOfWords } from '../../notation/swing'
import {
  mostWrittenBars,
  plainFlow,
  type WrittenBar,
  type WrittenMusic,
} from '../../notation/writtenMusic/writtenMusic'
import { ReadingProblems } from '../readingProblems'
import { readXml, type XmlElement, XmlError } from '../xmlTree'
import { type ListedPart, listedParts, pieceHeadings } from './partHeadings'
import { PartReader } from './partReader'

/** The file is MusicXML that cannot be read, or no MusicXML; says what and where. */
export class MusicXmlError extends FileProblem {
  override name = 'MusicXmlError'
}

/** Parts of a file; the largest scores have some eighty. */
const mostParts = 512

/**
 * Reads MusicXML, by parts or by bars. What cannot be taken over is told, kind by kind.
 *
 * Source: MusicXML 4.0, W3C Music Notation Community Group, and the older versions it goes on from.
 *
 * @throws MusicXmlError
 */
export function readMusicXml(text: string): {
  readonly music: WrittenMusic
  readonly warnings: readonly string[]
} {
  const problems = new ReadingProblems()
  const head = new Head()
  const readers = new Map<string, PartReader>()
  const order: string[] = []
  let root = ''
  const readerOf = (id: string): PartReader => {
    const known = readers.get(id)
    if (known) return known
    if (readers.size >= mostParts) throw new MusicXmlError(`The file has more than ${mostParts} parts`)
    const listed = head.parts.find((part) => part.id === id) ?? unlisted(id, readers.size)
    const reader = new PartReader(listed, problems)
    readers.set(id, reader)
    order.push(id)
    return reader
  }
  const read = (element: XmlElement, around: readonly XmlElement[]) => {
    root ||= around[0]?.name ?? element.name
    if (headNames.has(element.name)) {
      head.take(element)
      return
    }
    const part = element.name === 'part' ? element : around.at(-1)
    const reader = readerOf(part?.attributes.id ?? '')
    if (reader.bars.length >= mostWrittenBars)
      throw new MusicXmlError(
        `Line ${element.line}: the file has more than ${mostWrittenBars.toLocaleString('en')} bars, more than can be read`,
      )
    reader.measure(element)
  }
  if (text.trim() === '') throw new MusicXmlError('The file is empty')
  const isTimewise = /<score-timewise[\s>]/.test(text.slice(0, 20_000))
  const damage: string[] = []
  try {
    readXml(text, new Set([...headNames, isTimewise ? 'part' : 'measure']), read)
  } catch (error) {
    if (!(error instanceof XmlError)) throw error
    const bars = Math.max(0, ...[...readers.values()].map((reader) => reader.bars.length))
    if (bars === 0) throw new MusicXmlError(error.message)
    damage.push(
      `The file is damaged: ${error.message}. What stands before that could be read: ${bars === 1 ? 'one bar' : `${bars.toLocaleString('en')} bars`} of ${readers.size === 1 ? 'one part' : `${readers.size} parts`}.`,
    )
  }
  if (root !== 'score-partwise' && root !== 'score-timewise')
    throw new MusicXmlError(
      root === ''
        ? 'The file has nothing of a score in it'
        : `The file begins with <${root}>, not with <score-partwise> or <score-timewise>: it is no MusicXML`,
    )
  const parts = [
    ...head.parts.flatMap(({ id }) => readers.get(id) ?? []),
    ...unlistedOf(order, head.parts, readers),
  ]
  if (parts.length === 0) throw new MusicXmlError('The file has no parts with bars in it')
  return { music: musicOf(head, parts), warnings: [...damage, ...problems.sentences()] }
}

const headNames: ReadonlySet<string> = new Set([
  'work',
  'movement-title',
  'identification',
  'credit',
  'part-list',
])

class Head {
  work: XmlElement | undefined
  movementTitle = ''
  identification: XmlElement | undefined
  readonly credits: XmlElement[] = []
  parts: readonly ListedPart[] = []

  take(element: XmlElement): void {
    if (element.name === 'work') this.work = element
    if (element.name === 'movement-title') this.movementTitle = element.text.trim()
    if (element.name === 'identification') this.identification = element
    if (element.name === 'credit') this.credits.push(element)
    if (element.name === 'part-list') this.parts = listedParts(element)
  }
}

function unlisted(id: string, index: number): ListedPart {
  return {
    id,
    isInstrumentTold: false,
    keyOf: new Map(),
    heading: {
      name: id || `Part ${index + 1}`,
      shortName: '',
      instrument: { kind: 'program', program: 0 },
      bracket: 'none',
      keyNames: [],
      channel: 1,
      volume: 0.8,
      pan: 0,
    },
  }
}

function unlistedOf(
  order: readonly string[],
  listed: readonly ListedPart[],
  readers: ReadonlyMap<string, PartReader>,
): PartReader[] {
  return order.filter((id) => !listed.some((part) => part.id === id)).map((id) => readers.get(id)!)
}

function musicOf(head: Head, readers: readonly PartReader[]): WrittenMusic {
  const count = Math.max(...readers.map((reader) => reader.bars.length))
  let meter: WrittenBar['meter'] = { numerator: 4, denominator: 4 }
  const bars = Array.from({ length: count }, (_, index): WrittenBar => {
    const told = readers.flatMap((reader) => reader.bars[index] ?? [])
    const change = told.find((bar) => bar.meter !== undefined)
    if (change) meter = change.meter!
    return {
      meter,
      flow: Object.assign({}, plainFlow, ...told.map(({ flow }) => flow)),
      barLine: told.find((bar) => bar.barLine !== null)?.barLine ?? null,
      breakBefore: told.find((bar) => bar.breakBefore !== null)?.breakBefore ?? null,
    }
  })
  const parts = readers.map((reader) => reader.part())
  const { software: _software, ...headings } = pieceHeadings(head)
  const told = readers.find((reader) => reader.swing !== null)?.swing ?? null
  const swing =
    told ?? parts.flatMap(({ texts }) => texts.flatMap(({ text }) => swingOfWords(text) ?? []))[0] ?? null
  return {
    headings,
    bars,
    parts: parts.map((part) => ({
      ...part,
      texts: part.texts.filter(({ text }) => swingOfWords(text) === null),
    })),
    tempos: inOrder(readers.flatMap(({ tempos }) => tempos)),
    sections: inOrder(readers.flatMap(({ sections }) => sections)),
    chordSymbols: inOrder(readers.flatMap(({ chordSymbols }) => chordSymbols)),
    swing,
  }
}

/** In order of their places; what several parts say of one place, once. */
function inOrder<Of extends { readonly bar: number; readonly offsetTicks: number }>(
  all: readonly Of[],
): Of[] {
  const byPlace = new Map<string, Of>()
  for (const each of all) {
    const address = `${each.bar} ${each.offsetTicks}`
    if (!byPlace.has(address)) byPlace.set(address, each)
  }
  return [...byPlace.values()].sort((a, b) => a.bar - b.bar || a.offsetTicks - b.offsetTicks)
}
