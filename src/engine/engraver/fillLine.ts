/** The library's usual spacing of notes by their length. */
export const usualSpacing = 0.3

const leastSpacing = 0.05
const mostSpacing = 0.75
/** What is left over is stretched away; so little is not seen. */
const unseenStretch = 0.03
const mostTries = 3
/** A line that would have to be pressed together to less than this is drawn smaller instead. */
const pressedShare = 0.94
/** A line that would have to be stretched more than this stays ragged: the last one of a piece. */
const raggedBelow = 0.72

/**
 * Draws a line of music so that it fills its width: the spacing of the notes is found in a few tries, beginning with the
 * one that fitted before an edit, and the rest is a stretch too small to see.
 *
 * @param draw gives the SVG of the line, as wide as it comes with a spacing
 * @param widthPx null: as wide as it comes
 * @returns the SVG at the full width, and the spacing that was found
 */
export function fillLine(
  draw: (spacing: number) => string,
  widthPx: number | null,
  firstSpacing: number,
): { svg: string; spacing: number } {
  const within = (wanted: number) => Math.max(leastSpacing, Math.min(mostSpacing, wanted))
  let spacing = within(firstSpacing)
  let svg = draw(spacing)
  let size = sizeOf(svg)
  for (
    let tried = 1;
    widthPx !== null && tried < mostTries && Math.abs(size.width / widthPx - 1) > unseenStretch;
    tried++
  ) {
    // About a seventh of a line (clefs, keys, names) does not answer to the spacing.
    const fixed = widthPx * 0.14
    const wanted = within((spacing * (widthPx - fixed)) / Math.max(1, size.width - fixed))
    if (Math.abs(wanted - spacing) < 0.005) break
    spacing = wanted
    svg = draw(spacing)
    size = sizeOf(svg)
  }
  const isRagged = widthPx === null || size.width < widthPx * raggedBelow
  const shownWidth = isRagged ? size.width : widthPx
  // What finds no room however near its notes stand is drawn smaller: pressed together, it could not be read.
  const share = shownWidth / size.width
  const shownHeight = share < pressedShare ? size.height * share : size.height
  return {
    spacing,
    svg: withoutStyles(svg).replace(
      /^<svg width="[^"]*" height="[^"]*"/,
      `<svg width="${shownWidth}px" height="${shownHeight}px" viewBox="0 0 ${size.width} ${size.height}" preserveAspectRatio="none"`,
    ),
  }
}

/** How high an engraved line is drawn, in pixels. */
export function heightPxOf(svg: string): number {
  return Number(/^<svg width="[^"]*" height="([\d.]+)px"/.exec(svg)?.[1] ?? 0)
}

function sizeOf(svg: string): { width: number; height: number } {
  const match = /^<svg width="(\d+(?:\.\d+)?)px" height="(\d+(?:\.\d+)?)px"/.exec(svg.trimStart())
  if (!match) throw new Error('The engraved line does not say how large it is')
  return { width: Number(match[1]), height: Number(match[2]) }
}

/** The page has styles of its own for all lines; one sheet a line would make the browser work for each. */
function withoutStyles(svg: string): string {
  return svg.trimStart().replace(/<style[\s\S]*?<\/style>/g, '')
}
