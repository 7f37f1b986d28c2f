import { drumKeyXml } from '@/core/formats/drumKeyXml'
import { writeMusicXml } from '@/core/formats/musicXml'
import { withCues } from '@/core/notation/cues'
import { partsThatPlay } from '@/core/notation/emptyStaves'
import { gatheredRests, nothingGathered } from '@/core/notation/gatheredRests'
import type { ScoreHeadings } from '@/core/notation/headings'
import { openTiesOf } from '@/core/notation/openTies'
import { isUnpitched, type Score } from '@/core/notation/score'
import { breakIntoSystems, type ScoreSystem } from '@/core/notation/systems'
import { type LineToPlace, layOutPages } from '@/core/pages/layOutPages'
import { type PageSetup, pageSizeOf, pointsToMm } from '@/core/pages/pageSetup'
import { type EngravingToolkit, engraveLine, pixelsPerSpace } from '../engraver/engraveLine'
import { heightPxOf, unknownSpacing } from '../engraver/fillLine'
import { labelled } from '../engraver/pageLabel'
import { SpacingGuess } from '../engraver/spacingGuess'
import { footTexts, runningPt, runningTexts, titleTexts } from './pageTexts'
import type { PrintedBook, PrintedLine, PrintedPage } from './printedPage'

/** Tells that a line is done; throws where nobody wants the rest. */
export type AfterLine = () => void | Promise<void>

/** The score of one part alone, with cues where they are asked for. */
export function partOf(
  score: Score,
  headings: ScoreHeadings,
  index: number,
  writesCues = false,
): { score: Score; headings: ScoreHeadings } {
  const names = headings.parts.map(({ name }) => name)
  return {
    score: { ...score, parts: [writesCues ? withCues(score, names, index) : score.parts[index]!] },
    headings: { ...headings, parts: [headings.parts[index]!] },
  }
}

/** Smaller staves are tried so often, so that the highest line finds room on a page. */
const mostTries = 5

/**
 * Engraves a score, or a part alone, and lays it out on pages. Where a line is higher than the page, staves are smaller than they should
 * be.
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
  const partName = isPart ? (headings.parts[0]?.name ?? 'Part') : ''
  const titles = titleTexts(headings, partName, widthPt, marginPt)
  const bottomPt = heightPt - marginPt - runningPt
  const wantedStaffMm = isPart ? setup.partStaffMm : setup.scoreStaffMm
  const roomPt = bottomPt - titles.bottomPt
  const engrave = (staffMm: number, room: number) =>
    engraveBook(toolkit, score, headings, setup, isPart, staffMm, room, afterLine)
  let staffMm = wantedStaffMm
  let book = await engrave(staffMm, roomPt)
  for (let tried = 1; book.tooHighBy > 1 && tried < mostTries; tried++) {
    staffMm *= 0.97 / book.tooHighBy
    // The last time it is taken as it comes.
    book = await engrave(staffMm, tried < mostTries - 1 ? roomPt : Number.POSITIVE_INFINITY)
  }
  const { lines, scale } = book
  const pages = layOutPages(lines, {
    firstTopPt: titles.bottomPt,
    topPt: marginPt + runningPt,
    bottomPt,
    linesToPage: setup.linesToPage,
    turnsAtRests: isPart && setup.turnsAtRests,
  })
  return {
    name: isPart ? partName : 'Score',
    widthPt,
    heightPt,
    staffMm,
    isStaffSmaller: staffMm < wantedStaffMm,
    pages: (pages.length > 0 ? pages : [[]]).map(
      (placed, page): PrintedPage => ({
        texts: [
          ...(page === 0
            ? titles.texts
            : runningTexts(headings.title, partName, page + 1, widthPt, marginPt)),
          ...footTexts(headings.rights, page, widthPt, heightPt, marginPt),
        ],
        lines: placed.map(
          ({ index, topPt }): PrintedLine => ({ svg: lines[index]!.svg, xPt: marginPt, yPt: topPt, scale }),
        ),
      }),
    ),
  }
}

interface EngravedBook {
  readonly lines: readonly (LineToPlace & { readonly svg: string })[]
  /** Points to a pixel of their drawings. */
  readonly scale: number
  /** How many times as high as the room a line is, where one is higher: then there are no lines behind it. */
  readonly tooHighBy: number
}

/** The lines of a book, until one is higher than the room. */
async function engraveBook(
  toolkit: EngravingToolkit,
  score: Score,
  headings: ScoreHeadings,
  setup: PageSetup,
  isPart: boolean,
  staffMm: number,
  roomPt: number,
  afterLine: AfterLine,
): Promise<EngravedBook> {
  const { widthPt, marginPt } = pageSizeOf(setup)
  const scale = ((staffMm / 4) * pointsToMm) / pixelsPerSpace
  const lineWidthPx = (widthPt - 2 * marginPt) / scale
  const gathered = isPart && setup.gathersRests ? gatheredRests(score) : nothingGathered
  const systems = breakIntoSystems(score, lineWidthPx / pixelsPerSpace, {
    gathered,
    mostBars: setup.barsToLine,
    beginsLine: (bar) => score.breaks.some((each) => each.bar === bar),
  })
  const beginsPage = ({ from }: ScoreSystem) =>
    score.breaks.some(({ bar, of }) => bar === from && of === 'page')
  const lines = isPart && setup.writesDrumKey ? drumKey(toolkit, score, headings, scale) : []
  const guess = new SpacingGuess()
  const lineSpaces = lineWidthPx / pixelsPerSpace
  for (const system of systems) {
    const names = headings.parts.map((part) =>
      isPart ? { ...part, name: '', shortName: '' } : labelled(part, system.from === 0),
    )
    const musicXml = writeMusicXml(
      score,
      { ...headings, parts: names },
      {
        measures: system,
        withNoteIds: true,
        gathered,
        parts:
          setup.hidesEmptyStaves && !isPart
            ? partsThatPlay(score, system)
            : score.parts.map((_, index) => index),
      },
    )
    const line = engraveLine(
      toolkit,
      musicXml,
      lineWidthPx,
      guess.expected(score, system, lineSpaces, gathered),
      openTiesOf(score, system),
      system.from + 1,
    )
    guess.wasFound(line, score, system, lineSpaces, gathered)
    const heightPt = heightPxOf(line.svg) * scale
    if (heightPt > roomPt) return { lines, scale, tooHighBy: heightPt / roomPt }
    lines.push({
      svg: line.svg,
      heightPt,
      endsInRest: endsInRest(score, system),
      beginsPage: beginsPage(system),
    })
    await afterLine()
  }
  return { lines, scale, tooHighBy: 0 }
}

/** What the places of the staff mean, before a part of drums; nothing before other parts. */
function drumKey(
  toolkit: EngravingToolkit,
  { parts }: Score,
  headings: ScoreHeadings,
  scale: number,
): (LineToPlace & { readonly svg: string })[] {
  const [part, heading] = [parts[0], headings.parts[0]]
  if (!part || !heading || !isUnpitched(part)) return []
  return drumKeyXml(part, heading).map((musicXml) => {
    const { svg } = engraveLine(toolkit, musicXml, null, unknownSpacing, { onwards: [], fromBefore: [] })
    return { svg, heightPt: heightPxOf(svg) * scale, endsInRest: false, beginsPage: false }
  })
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
