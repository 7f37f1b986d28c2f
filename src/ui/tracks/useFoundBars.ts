import type { FoundBars } from '@/core/beats/findBars'
import type { Project } from '@/core/project/schema'
import { useView } from '../workspace/sessionContext'

/** The bars that were found and not used yet; none once the tempo is another one. */
export function useFoundBars({ tempos }: Pick<Project, 'tempos'>): FoundBars | null {
  const found = useView((state) => state.foundBars)
  return found?.under === tempos ? found.bars : null
}
