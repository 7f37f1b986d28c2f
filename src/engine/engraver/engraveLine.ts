import type { OpenTies } from '@/core/notation/openTies'
import { drawOpenTies } from './drawOpenTies'
import { type ExpectedSpacing, fillLine, type LineSpacing } from './fillLine'
import { keysOfStaves, withKeysOfStaves } from './keysOfStaves'
import { lighten } from './lighten'

/** The drawing part of the engraving library. */
export interface EngravingToolkit {
  setOptions(options: Record<string, unknown>): void
  loadData(data: string): boolean
  renderToSVG(page: number): string
  /** What was loaded, as MEI. */
  getMEI(): string
}

/** Percent of the library's own size at which a staff is drawn; a staff space is 7.2 px then. */
const drawingScale = 40
export const pixelsPerSpace = (drawingScale / 100) * 18

/**
 * Engraves one line of music so that it fills its width.
 *
 * @param musicXml an excerpt, with note identifiers
 * @param widthPx null: as wide as its music
 * @param expected what is known of its spacing: the nearer, the fewer tries
 * @returns the drawing, light, with ties to the lines around it; the library's own, for whoever looks up places; and the spacing
 */
export function engraveLine(
  toolkit: EngravingToolkit,
  musicXml: string,
  widthPx: number | null,
  expected: ExpectedSpacing,
  ties: OpenTies,
  barNumber: number | null = null,
): LineSpacing & { readonly svg: string; readonly given: string } {
  const changes = keysOfStaves(musicXml)
  let source: string | null = changes.size === 0 ? musicXml : null
  const load = () => {
    if (source !== null) return toolkit.loadData(source)
    if (!toolkit.loadData(musicXml)) return false
    source = withKeysOfStaves(toolkit.getMEI(), changes)
    return toolkit.loadData(source)
  }
  const { svg, ...found } = fillLine(
    (spacing, spreadToPx) => draw(toolkit, load, spacing, spreadToPx, barNumber),
    widthPx,
    expected,
  )
  return { svg: lighten(drawOpenTies(svg, ties)), given: svg, ...found }
}

function draw(
  toolkit: EngravingToolkit,
  load: () => boolean,
  spacing: number,
  spreadToPx: number | null,
  barNumber: number | null,
): string {
  toolkit.setOptions({
    // One line as it comes; or, a little slower, spread over a page that is as wide as the line.
    ...(spreadToPx === null
      ? { breaks: 'none', adjustPageWidth: true }
      : {
          breaks: 'encoded',
          adjustPageWidth: false,
          pageWidth: Math.round((spreadToPx * 100) / drawingScale),
          minLastJustification: 0,
        }),
    scale: drawingScale,
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
  if (!load())
    throw new Error(`A line${barNumber === null ? '' : ` with bar ${barNumber}`} could not be engraved`)
  return toolkit.renderToSVG(1)
}
