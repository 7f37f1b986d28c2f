import { TICKS_PER_QUARTER, type Ticks } from '@/core/time/units'

/** Which stretch of the piece a canvas shows. */
export interface TimeView {
  readonly startTicks: Ticks
  readonly pixelsPerQuarter: number
}

export const closestZoom = 400
export const furthestZoom = 0.5

export function xOf(view: TimeView, tick: Ticks): number {
  return ((tick - view.startTicks) / TICKS_PER_QUARTER) * view.pixelsPerQuarter
}

export function ticksAtX(view: TimeView, x: number): Ticks {
  return view.startTicks + (x / view.pixelsPerQuarter) * TICKS_PER_QUARTER
}

/** Zooms by a factor around a point that stays where it is. */
export function zoomAround(view: TimeView, x: number, factor: number): TimeView {
  const pixelsPerQuarter = Math.max(furthestZoom, Math.min(closestZoom, view.pixelsPerQuarter * factor))
  const anchor = ticksAtX(view, x)
  return { pixelsPerQuarter, startTicks: Math.max(0, anchor - (x / pixelsPerQuarter) * TICKS_PER_QUARTER) }
}

export function scrolled(view: TimeView, byPixels: number): TimeView {
  return {
    ...view,
    startTicks: Math.max(0, view.startTicks + (byPixels / view.pixelsPerQuarter) * TICKS_PER_QUARTER),
  }
}
