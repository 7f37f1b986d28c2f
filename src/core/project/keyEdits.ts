import type { KeySignature } from '../notation/scoreSettings'
import type { Ticks } from '../time/units'
import { contextOf } from './context'
import type { Project } from './schema'

/** The key from the bar at a place on, until the next change. Before the first there is none: it holds from the beginning. */
export function setKeyAt(project: Project, tick: Ticks, { fifths, mode }: KeySignature): Project {
  const barStart = project.keys.length === 0 ? 0 : contextOf(project).meterMap.barStartTicks(tick)
  const others = project.keys.filter((change) => change.tick !== barStart)
  return {
    ...project,
    keys: [...others, { tick: barStart, fifths, mode }].sort((a, b) => a.tick - b.tick),
  }
}

/** Takes a change of key out; the one at the beginning stays. */
export function removeKeyAt(project: Project, tick: Ticks): Project {
  if (tick === 0) return project
  return { ...project, keys: project.keys.filter((change) => change.tick !== tick) }
}
