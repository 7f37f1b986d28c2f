import { noteElementId } from '@/core/notation/noteElements'
import type { Score } from '@/core/notation/score'
import type { ScoreSystem } from '@/core/notation/systems'
import type { Ticks } from '@/core/time/units'
import { heightPxOf } from './fillLine'

/** Where things are drawn in a line, in pixels from its left and top. */
export interface LinePlaces {
  readonly widthPx: number
  readonly heightPx: number
  /** Outer lines of each staff, from the top staff down. */
  readonly staves: readonly { readonly topPx: number; readonly bottomPx: number }[]
  /** Moments at which notes begin, in order, and where their noteheads are: for the playing position. */
  readonly moments: readonly { readonly ticks: Ticks; readonly xPx: number }[]
}

/**
 * Reads the places of staves and noteheads out of an engraved line, so that the page need not ask the browser to lay it
 * out.
 *
 * @param svg as the engraver gives it, wrapped by `fillLine`
 */
export function placesOf(svg: string, score: Score, system: ScoreSystem): LinePlaces {
  const widthPx = Number(/^<svg width="([\d.]+)px"/.exec(svg)?.[1] ?? 0)
  const heightPx = heightPxOf(svg)
  const scaleBox = /class="definition-scale"[^>]*viewBox="[\d.-]+ [\d.-]+ ([\d.]+) ([\d.]+)"/.exec(svg)
  const margin = /class="page-margin" transform="translate\(([\d.-]+), ([\d.-]+)\)"/.exec(svg)
  const [marginLeft, marginTop] = [Number(margin?.[1] ?? 0), Number(margin?.[2] ?? 0)]
  const pixelsPerUnit = scaleBox ? heightPx / Number(scaleBox[2]) : 0
  const pixelsPerUnitAcross = scaleBox ? widthPx / Number(scaleBox[1]) : 0
  const [, firstMeasure = ''] = svg.split('class="measure"', 2)
  const staves = firstMeasure.split('class="staff"').slice(1)
  return {
    widthPx,
    heightPx,
    moments: momentsOf(svg, score, system).map(({ ticks, x }) => ({
      ticks,
      xPx: (x + marginLeft) * pixelsPerUnitAcross,
    })),
    staves: staves.map((staff) => {
      const lines = [...staff.matchAll(/<path d="M[\d.-]+ ([\d.-]+) L/g)]
        .slice(0, 5)
        .map((match) => Number(match[1]))
      const place = (y: number) => (y + marginTop) * pixelsPerUnit
      return { topPx: place(Math.min(...lines)), bottomPx: place(Math.max(...lines)) }
    }),
  }
}

function momentsOf(svg: string, score: Score, system: ScoreSystem): { ticks: Ticks; x: number }[] {
  const places = new Map<Ticks, number>()
  for (let bar = system.from; bar < system.to; bar++)
    for (const part of score.parts)
      for (const voice of part.measures[bar] ?? [])
        for (const element of voice.elements) {
          if (element.kind !== 'chord') continue
          const ticks = score.measures[bar]!.startTicks + element.startTicks
          if (places.has(ticks)) continue
          const place = noteheadPlace(svg, noteElementId(element.notes[0]!, bar, element.startTicks))
          if (place) places.set(ticks, place.x)
        }
  return [...places].map(([ticks, x]) => ({ ticks, x })).sort((a, b) => a.ticks - b.ticks)
}

/** Place of a notehead in the engraver's units, without the page's margin. */
export function noteheadPlace(svg: string, id: string): { x: number; y: number } | undefined {
  const start = svg.indexOf(`<g id="${id}"`)
  if (start < 0) return undefined
  const match = /translate\((-?[\d.]+),\s*(-?[\d.]+)\)/.exec(svg.slice(start, start + 600))
  return match ? { x: Number(match[1]), y: Number(match[2]) } : undefined
}
