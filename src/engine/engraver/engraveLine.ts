import type { OpenTies } from '@/core/notation/openTies'
import { drawOpenTies } from './drawOpenTies'
import { fillLine } from './fillLine'
import { lighten } from './lighten'

/** The drawing part of the engraving library. */
export interface EngravingToolkit {
  setOptions(options: Record<string, unknown>): void
  loadData(data: string): boolean
  renderToSVG(page: number): string
}

/** Percent of the library's own size at which a staff is drawn; a staff space is 7.2 px then. */
const drawingScale = 40
export const pixelsPerSpace = (drawingScale / 100) * 18

/**
 * Engraves one line of music so that it fills its width.
 *
 * @param musicXml an excerpt, with note identifiers
 * @param widthPx null: as wide as its music
 * @param firstSpacing the spacing of notes to begin with: the nearer, the fewer tries
 * @returns the drawing, light, with ties to the lines around it; the library's own, for whoever looks up places; and the spacing
 */
export function engraveLine(
  toolkit: EngravingToolkit,
  musicXml: string,
  widthPx: number | null,
  firstSpacing: number,
  ties: OpenTies,
  barNumber: number | null = null,
): { readonly svg: string; readonly given: string; readonly spacing: number } {
  const { svg, spacing } = fillLine(
    (tried) => draw(toolkit, musicXml, tried, barNumber),
    widthPx,
    firstSpacing,
  )
  return { svg: lighten(drawOpenTies(svg, ties)), given: svg, spacing }
}

function draw(
  toolkit: EngravingToolkit,
  musicXml: string,
  spacing: number,
  barNumber: number | null,
): string {
  toolkit.setOptions({
    // One line as it comes; laying it out on a page as well would take twice as long.
    breaks: 'none',
    scale: drawingScale,
    adjustPageWidth: true,
    pageHeight: 60_000,
    adjustPageHeight: true,
    header: 'none',
    footer: 'none',
    pageMarginLeft: 40,
    pageMarginRight: 10,
    pageMarginTop: 30,
    pageMarginBottom: 30,
    mnumInterval: 0,
    svgRemoveXlink: true,
    smuflTextFont: 'none',
    spacingLinear: spacing,
  })
  if (!toolkit.loadData(musicXml))
    throw new Error(`A line${barNumber === null ? '' : ` with bar ${barNumber}`} could not be engraved`)
  return toolkit.renderToSVG(1)
}
