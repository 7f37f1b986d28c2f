import type { TakeEvents } from '@/core/capture/takeEvents'
import { assetsOf } from './assets'
import { asideOf } from './database'
import type { ProjectStore } from './projectStore'
import { restoreTake } from './takes'

/** What is kept beside a project and belongs to it: takes as they were played, files, parts that could not be read. */
export function keptWith(
  projectId: string,
  store: ProjectStore,
  eventsOf: (takeSerial: number) => Promise<TakeEvents>,
) {
  return {
    restoreTake: (takeSerial: number, which: 'played' | 'result' = 'played') =>
      restoreTake(store, eventsOf, takeSerial, which),
    takeEvents: eventsOf,
    /** Parts that were left out when the project was read, now or earlier. */
    asideParts: () => asideOf(projectId),
    /** Files kept with the project. */
    assets: () => {
      const { assets } = store.getState().project
      return assetsOf(
        projectId,
        assets.map((asset) => asset.id),
      )
    },
  }
}
