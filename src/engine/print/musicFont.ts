import PDFDocument from 'pdfkit'

type Document = PDFKit.PDFDocument

/** Codes of one byte. */
const mostGlyphs = 255
const name = 'Music'

/** What a path is drawn with, as the operators of a page (ISO 32000-1, table 59). */
class OutlineRecorder {
  readonly operators: string[] = []
  private at: readonly [x: number, y: number] = [0, 0]

  moveTo(x: number, y: number) {
    this.at = [x, y]
    return this.say(x, y, 'm')
  }
  lineTo(x: number, y: number) {
    this.at = [x, y]
    return this.say(x, y, 'l')
  }
  bezierCurveTo(ax: number, ay: number, bx: number, by: number, x: number, y: number) {
    this.at = [x, y]
    return this.say(ax, ay, bx, by, x, y, 'c')
  }
  /** Pages know cubic curves only. */
  quadraticCurveTo(cx: number, cy: number, x: number, y: number) {
    const [fromX, fromY] = this.at
    const between = (end: number, control: number) => end + (2 / 3) * (control - end)
    return this.bezierCurveTo(between(fromX, cx), between(fromY, cy), between(x, cx), between(y, cy), x, y)
  }
  closePath() {
    return this.say('h')
  }
  private say(...words: (number | string)[]) {
    this.operators.push(
      words.map((word) => (typeof word === 'number' ? Number(word.toFixed(2)) : word)).join(' '),
    )
    return this
  }
}

/**
 * The signs of music that a document uses, as a font of its own in it (Type 3, ISO 32000-1, 9.6.5): each outline is stored once,
 * however often it is drawn.
 */
export class MusicFont {
  private readonly codes = new Map<string, number>()
  private readonly font: PDFKit.PDFKitReference

  constructor(private readonly document: Document) {
    this.font = document.ref({})
  }

  /** Makes the font known to the page that was begun. */
  beginPage(): void {
    ;(this.document.page as unknown as { fonts: Record<string, PDFKit.PDFKitReference> }).fonts[name] =
      this.font
  }

  /** Draws an outline, as it is written in a drawing, at a place. */
  draw(outline: string, x: number, y: number, scaleX: number, scaleY: number): void {
    let code = this.codes.get(outline)
    if (code === undefined) {
      if (this.codes.size >= mostGlyphs) {
        this.document.save().translate(x, y).scale(scaleX, scaleY).path(outline).fill('black').restore()
        return
      }
      code = this.codes.size + 1
      this.codes.set(outline, code)
    }
    const hex = code.toString(16).padStart(2, '0')
    this.document.addContent(`BT /${name} 1 Tf ${scaleX} 0 0 ${scaleY} ${x} ${y} Tm <${hex}> Tj ET`)
  }

  /** Writes the font, when everything is drawn. */
  finish(): void {
    const procedures: Record<string, PDFKit.PDFKitReference> = {}
    const names: string[] = []
    for (const [outline, code] of this.codes) {
      const recorder = new OutlineRecorder()
      PDFDocument.prototype.path.call(recorder as unknown as Document, outline)
      const procedure = this.document.ref({})
      // The width is of no use here: each sign is put where it stands.
      procedure.write(`0 0 d0\n${recorder.operators.join('\n')}\nf`)
      end(procedure)
      procedures[`g${code}`] = procedure
      names.push(`g${code}`)
    }
    Object.assign(this.font.data, {
      Type: 'Font',
      Subtype: 'Type3',
      Name: name,
      FontBBox: [-4000, -4000, 8000, 8000],
      FontMatrix: [1, 0, 0, 1, 0, 0],
      CharProcs: procedures,
      Encoding: { Type: 'Encoding', Differences: [1, ...names] },
      FirstChar: 1,
      LastChar: Math.max(1, names.length),
      Widths: names.length > 0 ? names.map(() => 0) : [0],
      Resources: {},
    })
    end(this.font)
  }
}

/** Its types ask for something to write. */
function end(reference: PDFKit.PDFKitReference): void {
  ;(reference as unknown as { end(): void }).end()
}
