import type { LinePlaces } from './linePlaces'

/** Lines under one another, as wide as the page; or one line without end, drawn in stretches beside one another. */
export const pageForms = ['lines', 'endless'] as const
export type PageForm = (typeof pageForms)[number]

/** How large a page may be looked at. */
export const zoomPercents = [50, 60, 70, 80, 90, 100, 115, 130, 150, 175, 200, 250] as const

/** How a page is looked at on the screen. */
export interface PageLook {
  readonly widthPx: number
  /** 100: a staff space takes `pixelsPerSpace`. */
  readonly zoomPercent: number
  readonly form: PageForm
}

/** Width of a stretch of an endless line, about: a quick drawing, and few places at which clefs are said again. */
export const stretchSpaces = 330

/** How wide a line is for the engraver, which knows of no zoom; null: as wide as its music. */
export function engravedWidthPx({ widthPx, zoomPercent, form }: PageLook): number | null {
  return form === 'endless' ? null : Math.round((widthPx * 100) / zoomPercent)
}

/** A drawing at the size it is looked at; what it shows stays. */
export function enlarged(svg: string, zoomPercent: number): string {
  if (zoomPercent === 100) return svg
  return svg.replace(
    /^<svg width="([\d.]+)px" height="([\d.]+)px"/,
    (_, width: string, height: string) =>
      `<svg width="${scaled(Number(width), zoomPercent)}px" height="${scaled(Number(height), zoomPercent)}px"`,
  )
}

/** Places in a drawing at the size it is looked at. */
export function placesEnlarged(places: LinePlaces, zoomPercent: number): LinePlaces {
  const at = (px: number) => scaled(px, zoomPercent)
  return {
    widthPx: at(places.widthPx),
    heightPx: at(places.heightPx),
    staves: places.staves.map(({ topPx, bottomPx }) => ({ topPx: at(topPx), bottomPx: at(bottomPx) })),
    moments: places.moments.map(({ ticks, xPx }) => ({ ticks, xPx: at(xPx) })),
  }
}

function scaled(px: number, zoomPercent: number): number {
  return Math.round(px * zoomPercent) / 100
}
