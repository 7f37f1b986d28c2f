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
  return pinched(view, { middle: x, apart: 1 }, { middle: x, apart: factor })
}

export function scrolled(view: TimeView, byPixels: number): TimeView {
  return {
    ...view,
    startTicks: Math.max(0, view.startTicks + (byPixels / view.pixelsPerQuarter) * TICKS_PER_QUARTER),
  }
}

/** Two fingers on a canvas: the place between them and how far they are apart, in pixels. */
export interface FingerPair {
  readonly middle: number
  readonly apart: number
}

/** The view after two fingers moved: what lay between them stays between them, and spreads as they do. */
export function pinched(view: TimeView, from: FingerPair, to: FingerPair): TimeView {
  const factor = from.apart > 0 && to.apart > 0 ? to.apart / from.apart : 1
  const pixelsPerQuarter = withinZoom(view.pixelsPerQuarter * factor)
  const between = ticksAtX(view, from.middle)
  return {
    pixelsPerQuarter,
    startTicks: Math.max(0, between - (to.middle / pixelsPerQuarter) * TICKS_PER_QUARTER),
  }
}

function withinZoom(pixelsPerQuarter: number): number {
  return Math.max(furthestZoom, Math.min(closestZoom, pixelsPerQuarter))
}
