/** The library's usual spacing of notes by their length. */
export const usualSpacing = 0.3

const leastSpacing = 0.05
const mostSpacing = 0.75
/** What a line lacks may be given to the distances between its notes, up to this share of it. */
const leastNatural = 0.84
/** The spacing is looked for that nearly fills the line: a little to spare, since notes are spread better than pressed together. */
const wantedNatural = 0.95
const mostTries = 3
/** A line that finds no room, however near its notes stand, may be pressed together by so much; beyond that it is drawn smaller. */
const mostPressed = 1.05
/** A line with less music than this stays as wide as its music. */
const raggedBelow = 2 / 3

/** How a line is filled: its notes spread over it; not, for want of music; drawn smaller, for want of room. */
type Filling = 'spread' | 'ragged' | 'smaller'

/** How the notes of a line are spaced. */
export interface LineSpacing {
  readonly spacing: number
  readonly filling: Filling
}

/** What is known of a line before it is drawn. */
export type ExpectedSpacing = LineSpacing & {
  /** It was drawn before, with nearly the same music: it need not be found anew. */
  readonly isFound: boolean
  /** Nothing follows: its notes stand no further apart than in the line before. */
  readonly isLast: boolean
}

/** A line of which nothing is known. */
export const unknownSpacing: ExpectedSpacing = {
  spacing: usualSpacing,
  filling: 'spread',
  isFound: false,
  isLast: false,
}

/**
 * Draws a line of music so that it fills its width. A spacing of the notes is found with which it nearly does, in a few tries, and what is
 * left over goes into the distances between them. Shapes are never stretched: a line that finds no room is drawn smaller as a whole.
 *
 * @param draw gives the SVG of the line: as wide as it comes with a spacing, or with that spacing spread to a width in pixels
 * @param widthPx null: as wide as it comes
 * @returns the SVG, and what was found
 */
export function fillLine(
  draw: (spacing: number, spreadToPx: number | null) => string,
  widthPx: number | null,
  { spacing: first, filling, isFound, isLast }: ExpectedSpacing,
): LineSpacing & { readonly svg: string } {
  const within = (wanted: number) => Math.max(leastSpacing, Math.min(mostSpacing, wanted))
  let spacing = within(first)
  if (widthPx !== null && isFound && filling === 'spread')
    return { svg: sized(draw(spacing, widthPx)), spacing, filling }
  let natural = draw(spacing, null)
  let width = sizeOf(natural).width
  if (widthPx === null) return { svg: sized(natural), spacing, filling: 'ragged' }
  const isGood = () => width <= widthPx && (width >= widthPx * leastNatural || isLast)
  for (let tried = 1; tried < mostTries && !isGood(); tried++) {
    // About a seventh of a line (clefs, keys, names) does not answer to the spacing.
    const fixed = widthPx * 0.14
    const wanted = within((spacing * (widthPx * wantedNatural - fixed)) / Math.max(1, width - fixed))
    if (Math.abs(wanted - spacing) < 0.005) break
    spacing = wanted
    natural = draw(spacing, null)
    width = sizeOf(natural).width
  }
  if (width < widthPx * raggedBelow) return { svg: sized(natural), spacing, filling: 'ragged' }
  if (width > widthPx * mostPressed)
    return { svg: sized(natural, widthPx / width), spacing, filling: 'smaller' }
  return { svg: sized(draw(spacing, widthPx)), spacing, filling: 'spread' }
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

/** A drawing at its own size or smaller, without the styles that the page has for all lines: one sheet a line would make the browser work for each. */
function sized(drawn: string, share = 1): string {
  const svg = drawn.trimStart().replace(/<style[\s\S]*?<\/style>/g, '')
  const { width, height } = sizeOf(svg)
  return svg.replace(
    /^<svg width="[^"]*" height="[^"]*"/,
    `<svg width="${width * share}px" height="${height * share}px" viewBox="0 0 ${width} ${height}"`,
  )
}
