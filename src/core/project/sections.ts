import { boundedName } from '../text/bounded'
import type { Ticks } from '../time/units'
import { contextOf } from './context'
import type { Project, Section } from './schema'

/** Names the part of the piece that begins with a bar (counted from 1); an empty name takes the name away. */
export function nameSection(project: Project, bar: number, name: string): Project {
  const { startTicks } = contextOf(project).meterMap.measure(Math.max(1, bar) - 1)
  const others = project.sections.filter(({ tick }) => tick !== startTicks)
  const named = name.trim() === '' ? [] : [{ tick: startTicks, name: boundedName(name.trim()) }]
  return { ...project, sections: [...others, ...named].sort((a, b) => a.tick - b.tick) }
}

/** A letter that no section has yet, as rehearsal marks are given: A to Z, then AA, BB. */
export function nextSectionName(sections: readonly Section[]): string {
  const used = new Set(sections.map(({ name }) => name))
  for (let times = 1; ; times++)
    for (let code = 65; code <= 90; code++) {
      const name = String.fromCharCode(code).repeat(times)
      if (!used.has(name)) return name
    }
}

/** The section a place lies in; null before the first. */
export function sectionAt(sections: readonly Section[], tick: Ticks): Section | null {
  return sections.filter((section) => section.tick <= tick).at(-1) ?? null
}
