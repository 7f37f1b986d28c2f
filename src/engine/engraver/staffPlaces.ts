/** Where the staves of a line are drawn, in pixels from its top. */
export interface LinePlaces {
  readonly heightPx: number
  /** Outer lines of each staff, from the top staff down. */
  readonly staves: readonly { readonly topPx: number; readonly bottomPx: number }[]
}

/**
 * Reads the places of the staves out of an engraved line, so that the page need not ask the browser to lay it out.
 *
 * @param svg as the engraver gives it, wrapped by `fillLine`
 */
export function placesOf(svg: string): LinePlaces {
  const heightPx = Number(/^<svg width="[^"]*" height="([\d.]+)px"/.exec(svg)?.[1] ?? 0)
  const scaleBox = /class="definition-scale"[^>]*viewBox="[\d.-]+ [\d.-]+ [\d.]+ ([\d.]+)"/.exec(svg)
  const marginTop = Number(
    /class="page-margin" transform="translate\([\d.-]+, ([\d.-]+)\)"/.exec(svg)?.[1] ?? 0,
  )
  const pixelsPerUnit = scaleBox ? heightPx / Number(scaleBox[1]) : 0
  const [, firstMeasure = ''] = svg.split('class="measure"', 2)
  const staves = firstMeasure.split('class="staff"').slice(1)
  return {
    heightPx,
    staves: staves.map((staff) => {
      const lines = [...staff.matchAll(/<path d="M[\d.-]+ ([\d.-]+) L/g)]
        .slice(0, 5)
        .map((match) => Number(match[1]))
      const place = (y: number) => (y + marginTop) * pixelsPerUnit
      return { topPx: place(Math.min(...lines)), bottomPx: place(Math.max(...lines)) }
    }),
  }
}
