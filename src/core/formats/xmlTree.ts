import { SaxesParser } from 'saxes'

/** An element of an XML file with what it holds; text of mixed content is put together. */
export interface XmlElement {
  readonly name: string
  readonly attributes: Readonly<Record<string, string>>
  readonly children: readonly XmlElement[]
  readonly text: string
  /** Of its beginning, from 1. */
  readonly line: number
}

/** The file is no XML that can be read; says what and where. */
export class XmlError extends Error {
  override name = 'XmlError'
}

/** Deeper than any music is nested. */
const deepest = 100
/** Elements a file may have: some 200,000 notes with everything that can be said of them. */
const mostElements = 6_000_000

interface OpenElement {
  readonly name: string
  readonly attributes: Readonly<Record<string, string>>
  readonly children: XmlElement[]
  text: string
  readonly line: number
}

/**
 * Reads an XML file element by element, so that a long one never lies in memory as a whole: each element of a name that is asked for
 * is handed over when it ends, and let go. Nothing outside the file is fetched, and no entity but those of XML itself is
 * expanded.
 *
 * Source: Extensible Markup Language (XML) 1.0, W3C.
 *
 * @param handed names of elements that are handed over with all they hold; what lies in them is theirs
 * @param take given each of these, with the elements around it from the outermost in, their children not among them
 * @throws XmlError
 */
export function readXml(
  text: string,
  handed: ReadonlySet<string>,
  take: (element: XmlElement, around: readonly XmlElement[]) => void,
): void {
  const parser = new SaxesParser({ position: true, xmlns: false })
  const open: OpenElement[] = []
  /** How many of the open elements are within one that is handed over, itself counted. */
  let inside = 0
  let elements = 0
  parser.on('error', (error) => {
    // "12:5: text": the place of the parser, then what is wrong.
    const [, line, column, problem] = /^(\d+):(\d+): ([\s\S]*)$/.exec(error.message) ?? []
    if (problem?.includes('undefined entity'))
      throw new XmlError(
        `Line ${line}: the file uses an entity of its own (&…;), which is not expanded. Save it without entities`,
      )
    throw new XmlError(
      line ? `Line ${line}, column ${column}: ${sentence(problem!)}` : sentence(error.message),
    )
  })
  parser.on('opentag', (tag) => {
    if (open.length >= deepest)
      throw new XmlError(`Line ${parser.line}: elements are nested more than ${deepest} deep`)
    if (++elements > mostElements)
      throw new XmlError(
        `The file has more than ${mostElements.toLocaleString('en')} elements: more than can be read at once`,
      )
    if (inside > 0 || handed.has(tag.name)) inside++
    open.push({ name: tag.name, attributes: tag.attributes, children: [], text: '', line: parser.line })
  })
  parser.on('text', (piece) => {
    if (inside > 0) open[open.length - 1]!.text += piece
  })
  parser.on('cdata', (piece) => {
    if (inside > 0) open[open.length - 1]!.text += piece
  })
  parser.on('closetag', () => {
    const element = open.pop()!
    if (inside === 0) return
    inside--
    if (inside === 0) take(element, open)
    else open[open.length - 1]!.children.push(element)
  })
  parser.write(text).close()
}

function sentence(problem: string): string {
  const plain = problem.trim().replace(/\.$/, '')
  return plain.charAt(0).toUpperCase() + plain.slice(1)
}

/** The first child of a name. */
export function child(element: XmlElement | undefined, name: string): XmlElement | undefined {
  return element?.children.find((each) => each.name === name)
}

export function childrenOf(element: XmlElement | undefined, name: string): XmlElement[] {
  return element?.children.filter((each) => each.name === name) ?? []
}

/** The text of the first child of a name, trimmed; undefined where there is none. */
export function textOf(element: XmlElement | undefined, name: string): string | undefined {
  return child(element, name)?.text.trim()
}
