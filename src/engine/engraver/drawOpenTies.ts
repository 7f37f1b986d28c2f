import type { OpenTies } from '@/core/notation/openTies'
import { noteheadPlace } from './linePlaces'

/**
 * Draws the halves of ties that cross a line break: the engraver sees one line at a time and leaves them out.
 *
 * @param svg a line engraved with note identifiers
 */
export function drawOpenTies(svg: string, ties: OpenTies): string {
  const arcs: string[] = []
  for (const id of ties.onwards) {
    const at = noteheadPlace(svg, id)
    if (at) arcs.push(arc(at.x + 290, at.y + 90, 330))
  }
  for (const id of ties.fromBefore) {
    const at = noteheadPlace(svg, id)
    if (at) arcs.push(arc(at.x - 330, at.y + 90, 300))
  }
  if (arcs.length === 0) return svg
  const end = svg.lastIndexOf('</g>', svg.lastIndexOf('</g>') - 1)
  return `${svg.slice(0, end)}<g class="tie">${arcs.join('')}</g>${svg.slice(end)}`
}

function arc(x: number, y: number, width: number): string {
  return `<path d="M${x} ${y} Q${x + width / 2} ${y + 130} ${x + width} ${y} Q${x + width / 2} ${y + 95} ${x} ${y}Z" />`
}
