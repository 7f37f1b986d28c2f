import { writeMusicXml } from '@/core/formats/musicXml'
import { gatheredRests, nothingGathered } from '@/core/notation/gatheredRests'
import type { ScoreHeadings } from '@/core/notation/headings'
import { openTiesOf } from '@/core/notation/openTies'
import type { Score } from '@/core/notation/score'
import { breakIntoSystems, musicSpaces, type ScoreSystem } from '@/core/notation/systems'
import { layOutPages } from '@/core/pages/layOutPages'
import { type PageSetup, pageSizeOf, pointsToMm } from '@/core/pages/pageSetup'
import { type EngravingToolkit, engraveLine, pixelsPerSpace } from '../engraver/engraveLine'
import { usualSpacing } from '../engraver/fillLine'
import type { PrintedBook, PrintedLine, PrintedPage, PrintedText } from './printedPage'

/** Sizes of words, in points. */
const titleSize = 20
const subtitleSize = 12
const creditSize = 10
const runningSize = 9
/** Room for the running words above and below the music of each page. */
const runningPt = 14

/** Tells that a line is done; throws where nobody wants the rest. */
export type AfterLine = () => void | Promise<void>

/** The score of one part alone. */
export function partOf(
  score: Score,
  headings: ScoreHeadings,
  index: number,
): { score: Score; headings: ScoreHeadings } {
  return {
    score: { ...score, parts: [score.parts[index]!] },
    headings: { ...headings, parts: [headings.parts[index]!] },
  }
}

/**
 * Engraves a score, or a part alone, and lays it out on pages.
 *
 * @param isPart a part for a player: its name stands on every page, long rests are gathered, pages turn at rests
 * @throws Error where a line cannot be engraved
 */
export async function printBook(
  toolkit: EngravingToolkit,
  score: Score,
  headings: ScoreHeadings,
  setup: PageSetup,
  isPart: boolean,
  afterLine: AfterLine = () => {},
): Promise<PrintedBook> {
  const { widthPt, heightPt, marginPt } = pageSizeOf(setup)
  const staffMm = isPart ? setup.partStaffMm : setup.scoreStaffMm
  const scale = ((staffMm / 4) * pointsToMm) / pixelsPerSpace
  const lineWidthPx = (widthPt - 2 * marginPt) / scale
  const gathered = isPart && setup.gathersRests ? gatheredRests(score) : nothingGathered
  const systems = breakIntoSystems(score, lineWidthPx / pixelsPerSpace, {
    gathered,
    mostBars: setup.barsToLine,
    beginsLine: () => false,
  })
  const lines: { svg: string; heightPt: number; endsInRest: boolean }[] = []
  /** Of the notes of the line before, and how much room they wanted: a fuller line begins with less. */
  let [spacing, spacesBefore] = [usualSpacing, 0]
  for (const system of systems) {
    const names = headings.parts.map((part) => ({
      ...part,
      name: isPart || system.from > 0 ? '' : part.name,
    }))
    const musicXml = writeMusicXml(
      score,
      { ...headings, parts: names },
      { measures: system, withNoteIds: true, gathered },
    )
    const spaces = musicSpaces(score, system, gathered)
    const line = engraveLine(
      toolkit,
      musicXml,
      lineWidthPx,
      spacesBefore > 0 ? (spacing * spacesBefore) / spaces : spacing,
      openTiesOf(score, system),
      system.from + 1,
    )
    ;[spacing, spacesBefore] = [line.spacing, spaces]
    lines.push({
      svg: line.svg,
      heightPt: heightOf(line.svg) * scale,
      endsInRest: endsInRest(score, system),
    })
    await afterLine()
  }
  const titles = titleTexts(headings, isPart ? (headings.parts[0]?.name ?? '') : '', widthPt, marginPt)
  const pages = layOutPages(
    lines.map(({ heightPt: height, endsInRest: rests }) => ({
      heightPt: height,
      endsInRest: rests,
      beginsPage: false,
    })),
    {
      firstTopPt: titles.bottomPt,
      topPt: marginPt + runningPt,
      bottomPt: heightPt - marginPt - runningPt,
      linesToPage: setup.linesToPage,
      turnsAtRests: isPart && setup.turnsAtRests,
    },
  )
  const name = isPart ? (headings.parts[0]?.name ?? 'Part') : 'Score'
  return {
    name,
    widthPt,
    heightPt,
    pages: (pages.length > 0 ? pages : [[]]).map(
      (placed, page): PrintedPage => ({
        texts: [
          ...(page === 0
            ? titles.texts
            : runningTexts(headings.title, isPart ? name : '', page + 1, widthPt, marginPt)),
          ...footTexts(headings.rights, page, widthPt, heightPt, marginPt),
        ],
        lines: placed.map(
          ({ index, topPt }): PrintedLine => ({
            svg: lines[index]!.svg,
            xPt: marginPt,
            yPt: topPt,
            scale,
          }),
        ),
      }),
    ),
  }
}

function heightOf(svg: string): number {
  return Number(/^<svg width="[^"]*" height="([\d.]+)px"/.exec(svg)?.[1] ?? 0)
}

/** Whether all parts rest at the end of a line, for half a bar at least. */
function endsInRest({ measures, parts }: Score, { to }: ScoreSystem): boolean {
  const { lengthTicks } = measures[to - 1]!
  return parts.every(({ measures: bars }) =>
    bars[to - 1]!.every(({ elements }) => {
      const lastSounding = elements.findLast(({ kind }) => kind === 'chord')
      return !lastSounding || lastSounding.startTicks + lastSounding.durationTicks <= lengthTicks / 2
    }),
  )
}

function titleTexts(
  { title, subtitle, composer, arranger }: ScoreHeadings,
  partName: string,
  widthPt: number,
  marginPt: number,
): { texts: PrintedText[]; bottomPt: number } {
  const texts: PrintedText[] = []
  const middle = { xPt: widthPt / 2, anchor: 'middle' as const }
  const right = { xPt: widthPt - marginPt, anchor: 'end' as const }
  let atPt = marginPt
  if (partName)
    texts.push({
      text: partName,
      xPt: marginPt,
      yPt: atPt + creditSize,
      anchor: 'start',
      sizePt: creditSize + 1,
      weight: 'bold',
    })
  atPt += titleSize + 6
  texts.push({ text: title, ...middle, yPt: atPt, sizePt: titleSize, weight: 'bold' })
  if (subtitle) {
    atPt += subtitleSize + 5
    texts.push({ text: subtitle, ...middle, yPt: atPt, sizePt: subtitleSize, weight: 'regular' })
  }
  atPt += 6
  for (const [credit, weight] of [
    [composer, 'regular'],
    [arranger && `arr. ${arranger}`, 'italic'],
  ] as const)
    if (credit) {
      atPt += creditSize + 4
      texts.push({ text: credit, ...right, yPt: atPt, sizePt: creditSize, weight })
    }
  return { texts, bottomPt: atPt + 12 }
}

function runningTexts(
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
      text: partName ? `${title}: ${partName}` : title,
      xPt: widthPt / 2,
      anchor: 'middle',
      yPt,
      sizePt: runningSize,
      weight: 'italic',
    },
  ]
}

function footTexts(
  rights: string,
  page: number,
  widthPt: number,
  heightPt: number,
  marginPt: number,
): PrintedText[] {
  if (!rights || page > 0) return []
  return [
    {
      text: rights,
      xPt: widthPt / 2,
      anchor: 'middle',
      yPt: heightPt - marginPt,
      sizePt: runningSize - 1,
      weight: 'regular',
    },
  ]
}
