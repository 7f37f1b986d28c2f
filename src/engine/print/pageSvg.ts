import { xmlText } from '@/core/formats/xmlText'
import type { PrintedBook, PrintedPage } from './printedPage'

const weights = {
  regular: '',
  bold: ' font-weight="700"',
  italic: ' font-style="italic"',
} as const

/** One page as a drawing, in points; the styles of whatever it is shown in draw its lines. */
export function pageSvg(
  { widthPt, heightPt }: Pick<PrintedBook, 'widthPt' | 'heightPt'>,
  page: PrintedPage,
): string {
  const texts = page.texts.map(
    ({ text, xPt, yPt, sizePt, anchor, weight }) =>
      `<text x="${xPt}" y="${yPt}" font-size="${sizePt}" text-anchor="${anchor}"${weights[weight]}>${xmlText(text)}</text>`,
  )
  const lines = page.lines.map(
    ({ svg, xPt, yPt, scale }) => `<g transform="translate(${xPt} ${yPt}) scale(${scale})">${svg}</g>`,
  )
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${widthPt}pt" height="${heightPt}pt" viewBox="0 0 ${widthPt} ${heightPt}" font-family="'Source Serif 4 Variable', 'Source Serif 4', 'Noto Music', serif"><rect width="100%" height="100%" fill="white" style="stroke:none"/>${texts.join('')}${lines.join('')}</svg>`
}
