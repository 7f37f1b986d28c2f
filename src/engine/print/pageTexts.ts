import type { ScoreHeadings } from '@/core/notation/headings'
import { shortened } from '@/core/text/bounded'
import type { PrintedText } from './printedPage'
import { lettersWithin, wrapWords } from './wrapWords'

/** Sizes of words, in points. */
const titleSize = 20
const subtitleSize = 12
const creditSize = 10
const runningSize = 9
/** Room for the running words above and below the music of each page. */
export const runningPt = 14

/** The words above the music of the first page, and where the music begins. */
export function titleTexts(
  { title, subtitle, composer, arranger }: ScoreHeadings,
  partName: string,
  widthPt: number,
  marginPt: number,
): { texts: PrintedText[]; bottomPt: number } {
  const texts: PrintedText[] = []
  const middle = { xPt: widthPt / 2, anchor: 'middle' as const }
  const right = { xPt: widthPt - marginPt, anchor: 'end' as const }
  let atPt = marginPt
  const add = (
    text: string,
    place: Pick<PrintedText, 'xPt' | 'anchor'>,
    sizePt: number,
    abovePt: number,
    weight: PrintedText['weight'],
    room = widthPt - 2 * marginPt,
  ) => {
    for (const line of wrapWords(text, sizePt, room)) {
      atPt += sizePt + abovePt
      texts.push({ text: line, ...place, yPt: atPt, sizePt, weight })
    }
  }
  if (partName) {
    add(partName, { xPt: marginPt, anchor: 'start' }, creditSize + 1, 0, 'bold', widthPt / 3)
    // One line of it stands beside the title.
    atPt -= creditSize + 1
  }
  add(title, middle, titleSize, 6, 'bold')
  add(subtitle, middle, subtitleSize, 5, 'regular')
  atPt += 6
  add(composer, right, creditSize, 4, 'regular')
  add(arranger && `arr. ${arranger}`, right, creditSize, 4, 'italic')
  return { texts, bottomPt: atPt + 12 }
}

/** The words above the music of another page; `page` counts from 1, even pages are on the left. */
export function runningTexts(
  title: string,
  partName: string,
  page: number,
  widthPt: number,
  marginPt: number,
): PrintedText[] {
  const yPt = marginPt + runningSize
  const isRight = page % 2 === 1
  const outer = isRight
    ? ({ xPt: widthPt - marginPt, anchor: 'end' } as const)
    : ({ xPt: marginPt, anchor: 'start' } as const)
  return [
    { text: String(page), ...outer, yPt, sizePt: runningSize + 1, weight: 'regular' },
    {
      text: shortened(
        partName ? `${title}: ${partName}` : title,
        lettersWithin(widthPt - 2 * marginPt - 80, runningSize),
      ),
      xPt: widthPt / 2,
      anchor: 'middle',
      yPt,
      sizePt: runningSize,
      weight: 'italic',
    },
  ]
}

/** The words under the music of the first page; `page` counts from 0. */
export function footTexts(
  rights: string,
  page: number,
  widthPt: number,
  heightPt: number,
  marginPt: number,
): PrintedText[] {
  if (!rights || page > 0) return []
  return [
    {
      text: shortened(rights, lettersWithin(widthPt - 2 * marginPt, runningSize - 1)),
      xPt: widthPt / 2,
      anchor: 'middle',
      yPt: heightPt - marginPt,
      sizePt: runningSize - 1,
      weight: 'regular',
    },
  ]
}
