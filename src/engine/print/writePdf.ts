import PDFDocument from 'pdfkit'
import { joinBytes } from '@/core/border/joinBytes'
import { MusicFont } from './musicFont'
import type { PrintedBook, PrintedLine, PrintedText } from './printedPage'
import { type Attributes, svgElements } from './svgElements'

/** Fonts of words, each as one or more files that hold different letters; the first that has a letter is taken. */
export type PrintFonts = Readonly<Record<PrintedText['weight'], readonly Uint8Array[]>>

type Document = PDFKit.PDFDocument

/**
 * Books as one PDF, page after page: everything as lines and shapes, signs of music in an embedded font, words in the fonts that are
 * given.
 *
 * @param fonts TrueType, OpenType or WOFF
 * @returns the file, and letters that no font has: their places are empty
 */
export async function writePdf(
  books: readonly PrintedBook[],
  title: string,
  author: string,
  fonts: PrintFonts,
  afterPage: () => void | Promise<void> = () => {},
): Promise<{ readonly pdf: Uint8Array; readonly missingLetters: string }> {
  const document = new PDFDocument({
    autoFirstPage: false,
    bufferPages: false,
    margin: 0,
    // None of its own: all words are in the fonts that are given.
    font: '',
    info: { Title: title, ...(author && { Author: author }), Creator: 'Unbroken Voice' },
  })
  const chunks: Uint8Array[] = []
  document.on('data', (chunk: Uint8Array) => chunks.push(chunk))
  const ended = new Promise<void>((resolve, reject) => {
    document.on('end', () => resolve())
    document.on('error', reject)
  })
  const words = new Words(document, fonts)
  const music = new MusicFont(document)
  for (const { pages, widthPt, heightPt } of books)
    for (const { texts, lines } of pages) {
      document.addPage({ size: [widthPt, heightPt], margin: 0 })
      music.beginPage()
      for (const line of lines) drawLine(document, line, words, music)
      for (const text of texts) words.draw([text], text.xPt, text.yPt, text.anchor)
      await afterPage()
    }
  music.finish()
  document.end()
  await ended
  return { pdf: joinBytes(chunks), missingLetters: [...words.missing].join(' ') }
}

interface Run {
  readonly text: string
  readonly sizePt: number
  readonly weight: PrintedText['weight']
}

/** Words in fonts that ship with the program, letter by letter from the file that has it. */
class Words {
  private readonly files: Readonly<
    Record<PrintedText['weight'], readonly { name: string; has: (letter: string) => boolean }[]>
  >

  /** Letters that no file has. */
  readonly missing = new Set<string>()

  constructor(
    private readonly document: Document,
    fonts: PrintFonts,
  ) {
    const register = (weight: PrintedText['weight']) =>
      fonts[weight].map((bytes, index) => {
        const name = `${weight} ${index}`
        document.registerFont(name, bytes as unknown as PDFKit.Mixins.PDFFontSource)
        document.font(name)
        const { font } = (
          document as unknown as { _font: { font: { hasGlyphForCodePoint(point: number): boolean } } }
        )._font
        return { name, has: (letter: string) => font.hasGlyphForCodePoint(letter.codePointAt(0)!) }
      })
    this.files = { regular: register('regular'), bold: register('bold'), italic: register('italic') }
  }

  /** Writes runs one after the other. */
  draw(runs: readonly Run[], x: number, y: number, anchor: PrintedText['anchor']): void {
    const pieces = runs.flatMap((run) => this.pieces(run))
    const widths = pieces.map(({ font, sizePt, text }) =>
      this.document.font(font).fontSize(sizePt).widthOfString(text),
    )
    const width = widths.reduce((sum, each) => sum + each, 0)
    let at = anchor === 'start' ? x : anchor === 'middle' ? x - width / 2 : x - width
    for (const [index, { font, sizePt, text }] of pieces.entries()) {
      this.document
        .font(font)
        .fontSize(sizePt)
        .text(text, at, y, { lineBreak: false, baseline: 'alphabetic' })
      at += widths[index]!
    }
  }

  private pieces({ text, sizePt, weight }: Run): { font: string; sizePt: number; text: string }[] {
    const pieces: { font: string; sizePt: number; text: string }[] = []
    const files = this.files[weight]
    for (const letter of text) {
      const file = files.find((each) => each.has(letter))
      if (!file) this.missing.add(letter)
      const font = (file ?? files[0]!).name
      const last = pieces.at(-1)
      if (last?.font === font) last.text += letter
      else pieces.push({ font, sizePt, text: letter })
    }
    return pieces
  }
}

function drawLine(
  document: Document,
  { svg, xPt, yPt, scale }: PrintedLine,
  words: Words,
  music: MusicFont,
): void {
  document.save().translate(xPt, yPt).scale(scale)
  const opened: { readonly isSaved: boolean }[] = []
  let outer = { width: 1, height: 1 }
  let text = null as { x: number; y: number; anchor: PrintedText['anchor']; runs: Run[] } | null
  let styles: Attributes[] = []
  for (const element of svgElements(svg)) {
    if (element.kind === 'text') {
      if (text) text.runs.push(runOf(element.text, styles))
      continue
    }
    if (element.kind === 'close') {
      if (element.name === 'text' && text) {
        const { runs, x, y, anchor } = text
        words.draw(trimmed(runs), x, y, anchor)
        text = null
        styles = []
      }
      if (element.name === 'tspan') styles.pop()
      if (opened.pop()?.isSaved) document.restore()
      continue
    }
    const { name, attributes } = element
    let isSaved = false
    if (name === 'svg') {
      document.save()
      isSaved = true
      const [, , width, height] = (attributes.viewBox ?? '0 0 1 1').split(' ').map(Number)
      if (opened.length === 0) {
        // Stretched to its width, as on the screen.
        document.scale(
          Number.parseFloat(attributes.width!) / width!,
          Number.parseFloat(attributes.height!) / height!,
        )
        outer = { width: width!, height: height! }
      } else document.scale(outer.width / width!, outer.height / height!)
    } else if (name === 'g') {
      if (attributes.transform) {
        document.save()
        isSaved = true
        move(document, attributes.transform)
      }
    } else if (name === 'text') {
      const anchor = attributes['text-anchor']
      text = {
        x: Number(attributes.x ?? 0),
        y: Number(attributes.y ?? 0),
        anchor: anchor === 'middle' || anchor === 'end' ? anchor : 'start',
        runs: [],
      }
      styles = [attributes]
    } else if (name === 'tspan') {
      if (text && attributes.x !== undefined && text.runs.length > 0) {
        words.draw(trimmed(text.runs), text.x, text.y, text.anchor)
        text = { ...text, runs: [] }
      }
      if (text && attributes.x !== undefined) text = { ...text, x: Number(attributes.x) }
      if (text && attributes.y !== undefined) text = { ...text, y: Number(attributes.y) }
      styles.push(attributes)
    } else drawShape(document, name, attributes, music)
    opened.push({ isSaved })
  }
  document.restore()
}

function runOf(text: string, styles: readonly Attributes[]): Run {
  const last = (name: string) => styles.findLast((style) => style[name] !== undefined)?.[name]
  const sizePt = Number.parseFloat(
    styles.findLast((style) => Number.parseFloat(style['font-size'] ?? '0') > 0)?.['font-size'] ?? '405',
  )
  const weight =
    last('font-weight') === 'bold' ? 'bold' : last('font-style') === 'italic' ? 'italic' : 'regular'
  return { text, sizePt, weight }
}

/** Space around words comes from how the drawing is written. */
function trimmed(runs: readonly Run[]): Run[] {
  return runs
    .map((run, index) => ({
      ...run,
      text: index === 0 ? run.text.trimStart() : index === runs.length - 1 ? run.text.trimEnd() : run.text,
    }))
    .map((run) => (runs.length === 1 ? { ...run, text: run.text.trim() } : run))
    .filter(({ text }) => text !== '')
}

function drawShape(document: Document, name: string, attributes: Attributes, music: MusicFont): void {
  const number = (key: string) => Number.parseFloat(attributes[key] ?? '0')
  const width = number('stroke-width')
  switch (name) {
    case 'path': {
      const d = attributes.d ?? ''
      const place = /translate\(([-\d.]+),? ?([-\d.]+)\) scale\(([-\d.]+),? ?([-\d.]+)\)/.exec(
        attributes.transform ?? '',
      )
      if (place) {
        music.draw(d, Number(place[1]), Number(place[2]), Number(place[3]), Number(place[4]))
        return
      }
      document.path(d).lineWidth(width || 1)
      const isLine = !/[CcQqSsTtZz]/.test(d)
      if (isLine || attributes.fill === 'none') document.stroke('black')
      else document.lineJoin('round').fillAndStroke('black', 'black')
      return
    }
    case 'rect':
      document.rect(number('x'), number('y'), number('width'), number('height'))
      if (attributes.fill === 'none') document.lineWidth(width || 1).stroke('black')
      else document.fill('black')
      return
    case 'ellipse':
      document.ellipse(number('cx'), number('cy'), number('rx'), number('ry')).fill('black')
      return
    case 'polygon':
    case 'polyline': {
      const points = (attributes.points ?? '')
        .trim()
        .split(/\s+/)
        .map((point) => point.split(',').map(Number) as [number, number])
      if (points.length < 2) return
      document.moveTo(...points[0]!)
      for (const point of points.slice(1)) document.lineTo(...point)
      if (name === 'polyline') document.lineWidth(width || 1).stroke('black')
      else document.closePath().fill('black')
      return
    }
    default:
      throw new Error(
        `The page cannot be printed: its drawing has an element "${name}" that is not known here`,
      )
  }
}

function move(document: Document, transform: string): void {
  for (const [, name, values] of transform.matchAll(/(\w+)\(([^)]*)\)/g)) {
    const [a = 0, b = 0, c = 0] = values!.split(/[ ,]+/).map(Number)
    if (name === 'translate') document.translate(a, b)
    else if (name === 'scale') document.scale(a, b || a)
    else if (name === 'rotate') document.rotate(a, { origin: [b, c] })
  }
}
