import { atSpeed } from '../time/speed'
import type { Project } from './schema'

/** A piece at the speed at which it is played and recorded: its tempi are others, its bars and notes are where they are. */
export function atItsSpeed(project: Project): Project {
  const tempos = atSpeed(project.tempos, project.recording.speedPercent)
  return tempos === project.tempos ? project : { ...project, tempos }
}
