import type { Compensation } from '../capture/takePlacement'
import type { Project } from './schema'

/** What is taken off the times of each source that arrives late. */
export function compensationsOf(project: Project): Compensation[] {
  return project.sources
    .filter((source) => source.compensationMs !== 0)
    .map(({ address, compensationMs }) => ({ ...address, compensationMs }))
}
