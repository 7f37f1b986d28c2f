import { VerovioToolkit } from 'verovio/esm'
import createModule from 'verovio/wasm'
import { medianMs } from './medianMs'

const steps = [...'CDEFGAB']
const note = (index: number, octave: number) =>
  `<note><pitch><step>${steps[(index * 3) % 7]}</step><octave>${octave}</octave></pitch><duration>1</duration><type>eighth</type></note>`
const bar = (number: number, part: number) =>
  `<measure number="${number}">${number === 1 ? '<attributes><divisions>2</divisions><time><beats>4</beats><beat-type>4</beat-type></time><clef><sign>G</sign><line>2</line></clef></attributes>' : ''}${Array.from({ length: 8 }, (_, index) => note(number + index + part, 4 + (part % 2))).join('')}</measure>`
const names = [1, 2, 3, 4]
const music = `<score-partwise version="4.0"><part-list>${names.map((part) => `<score-part id="P${part}"><part-name>Part ${part}</part-name></score-part>`).join('')}</part-list>${names.map((part) => `<part id="P${part}">${Array.from({ length: 40 }, (_, index) => bar(index + 1, part)).join('')}</part>`).join('')}</score-partwise>`

let toolkit: VerovioToolkit | null = null

/** The engraving library alone, laying out and drawing forty bars for four. */
export async function engravingMs(): Promise<number> {
  toolkit ??= new VerovioToolkit(await createModule())
  const library = toolkit
  // One page as high as the library can make it.
  library.setOptions({ pageWidth: 2100, pageHeight: 60_000, adjustPageHeight: true })
  return medianMs(() => {
    library.loadData(music)
    library.renderToSVG(1)
  })
}
