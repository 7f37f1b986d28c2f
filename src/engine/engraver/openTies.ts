import { noteElementId } from '@/core/formats/musicXml'
import type { Score } from '@/core/notation/score'
import type { ScoreSystem } from '@/core/notation/systems'
import { noteheadPlace } from './linePlaces'

interface OpenTies {
  /** Identifiers of noteheads tied into the next line, and from the one before. */
  readonly onwards: readonly string[]
  readonly fromBefore: readonly string[]
}

/** The noteheads whose tie leaves a line of music at its end or enters it at its beginning. */
export function openTiesOf(score: Score, system: ScoreSystem): OpenTies {
  const onwards: string[] = []
  const fromBefore: string[] = []
  const last = score.measures[system.to - 1]!
  for (const part of score.parts) {
    for (const voice of part.measures[system.to - 1] ?? [])
      for (const element of voice.elements)
        if (element.kind === 'chord' && element.startTicks + element.durationTicks >= last.lengthTicks)
          for (const note of element.notes)
            if (note.tiesToNext) onwards.push(noteElementId(note, last.index, element.startTicks))
    for (const voice of part.measures[system.from] ?? [])
      for (const element of voice.elements)
        if (element.kind === 'chord' && element.startTicks === 0)
          for (const note of element.notes)
            if (note.tiesFromPrevious) fromBefore.push(noteElementId(note, system.from, 0))
  }
  return { onwards, fromBefore }
}

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
