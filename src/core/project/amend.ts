import { type Amendment, addressOf } from '../notation/amendments/amendment'
import type { Project } from './schema'

/** Changes the page by hand: each amendment takes the place of an earlier one of the same thing. */
export function amend(project: Project, amendments: readonly Amendment[]): Project {
  if (amendments.length === 0) return project
  const told = new Map(amendments.map((each) => [addressOf(each), each]))
  return {
    ...project,
    amendments: [...project.amendments.filter((each) => !told.has(addressOf(each))), ...told.values()],
  }
}

/** Takes changes by hand back: the page is as it is read there. */
export function takeBack(project: Project, addresses: ReadonlySet<string>): Project {
  const amendments = project.amendments.filter((each) => !addresses.has(addressOf(each)))
  return amendments.length === project.amendments.length ? project : { ...project, amendments }
}
