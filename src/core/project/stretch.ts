import type { Stretch } from '../time/timeSchemas'
import type { Ticks } from '../time/units'
import { contextOf } from './context'
import type { Project } from './schema'

/** Whether a place is in a stretch; null is the whole piece. */
export function isWithin(stretch: Stretch | null, tick: Ticks): boolean {
  return stretch === null || (tick >= stretch.startTicks && tick < stretch.endTicks)
}

/** Marks whole bars: from the bar a place lies in to the end of the bar another lies in. */
export function markBars(project: Project, fromTicks: Ticks, toTicks: Ticks): Project {
  const meterMap = contextOf(project).meterMap
  const { startTicks } = meterMap.measureAt(fromTicks)
  const last = meterMap.measureAt(Math.max(fromTicks, toTicks - 1))
  const stretch = { startTicks, endTicks: last.startTicks + last.lengthTicks }
  return { ...project, recording: { ...project.recording, stretch } }
}

/** The same by bar numbers, counted from 1; a last bar before the first is taken as the first. */
export function markBarNumbers(project: Project, firstBar: number, lastBar: number): Project {
  const meterMap = contextOf(project).meterMap
  const first = meterMap.measure(firstBar - 1)
  const last = meterMap.measure(Math.max(firstBar, lastBar) - 1)
  return markBars(project, first.startTicks, last.startTicks + last.lengthTicks)
}

/** First and last bar of the marked stretch, counted from 1; null where none is marked. */
export function markedBars(project: Project): { readonly first: number; readonly last: number } | null {
  const { stretch } = project.recording
  if (!stretch) return null
  const meterMap = contextOf(project).meterMap
  return {
    first: meterMap.measureAt(stretch.startTicks).index + 1,
    last: meterMap.measureAt(stretch.endTicks - 1).index + 1,
  }
}
