/**
 * The same drawing with less than half the elements, so that the browser lays a line of music out without holding the page up:
 * each shape stands where it is used (a reference makes the browser build a tree of its own for it), groups that nobody asks
 * for are gone, and lines drawn alike are one path. Notes, chords, rests, staves and measures keep their groups and
 * identifiers; noteheads keep their class.
 *
 * @param svg as the engraver gives it
 */
export function lighten(svg: string): string {
  const shapes = new Map<string, string>()
  for (const [, id, outline] of svg.matchAll(shapeDefinition)) shapes.set(id!, outline!)
  let lighter = svg
    .replace(/<defs>[\s\S]*?<\/defs>/g, '')
    .replace(/<desc>[\s\S]*?<\/desc>/g, '')
    .replace(shapeUse, (use, id: string, x: string, y: string, scaleX: string, scaleY: string) => {
      const outline = shapes.get(id)
      if (outline === undefined) return use
      return `<path transform="translate(${x}, ${y}) scale(${scaleX}, ${-Number(scaleY)})" d="${outline}" />`
    })
    .replace(noteheadGroup, '<path class="notehead"$1 />')
  // Groups within groups: from the inside out, until none is left.
  for (let before = ''; before !== lighter; ) {
    before = lighter
    lighter = lighter.replace(emptyGroup, '').replace(groupNobodyAsksFor, '$1')
  }
  return lighter
    .replace(linesDrawnAlike, (lines, stroke: string) => {
      const moves = [...lines.matchAll(/ d="([^"]*)"/g)].map(([, move]) => move)
      return `<path d="${moves.join(' ')}" stroke-width="${stroke}" />`
    })
    .replace(spaceBetween, (part) => (part.startsWith('<text') ? part : '>'))
}

/** A shape of the music font, upside down as fonts are. */
const shapeDefinition = /<g id="([^"]+)">\s*<path transform="scale\(1,-1\)" d="([^"]*)" \/>\s*<\/g>/g
const shapeUse =
  /<use (?:xlink:)?href="#([^"]+)" transform="translate\(([-\d.]+), ([-\d.]+)\) scale\(([-\d.]+), ([-\d.]+)\)" \/>/g
const noteheadGroup = /<g(?: id="[^"]*")? class="notehead">\s*<path([^>]*?) \/>\s*<\/g>/g
const emptyGroup = /<g [^>]*\/>|<g [^>]*>\s*<\/g>/g
/** Shapes in a group that has no style or transformation of its own and whose name is not asked for. */
const groupNobodyAsksFor =
  /<g(?: id="[^"]*")? class="(?:stem|flag|accid|keyAccid|keySig|clef|meterSig|barLine|dots|artic|ledgerLines (?:above|below)|grpSym|layer|section systemMilestone|score pageMilestone|system)">((?:\s*<(?:path|ellipse|polygon|polyline|rect)\b[^<>]*\/>)*)\s*<\/g>/g
const linesDrawnAlike =
  /(?:<path d="M[-\d. L]+" stroke-width="([\d.]+)" \/>\s*)(?:<path d="M[-\d. L]+" stroke-width="\1" \/>\s*)+/g
/** Space between elements means something inside words only. */
const spaceBetween = /<text[\s\S]*?<\/text>|>\s+(?=<)/g
