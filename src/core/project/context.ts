import type { MusicalContext } from '../effects/noteEffect'
import { MeterMap } from '../time/meterMap'
import { tempoMapOf } from '../time/tempoMap'
import type { Project } from './schema'

const contexts = new WeakMap<
  Project['tempos'],
  { readonly meters: Project['meters']; readonly context: MusicalContext }
>()

/** Where time is in a piece: what effects, generators and pictures may know of it; the same object as long as its tempi and meters are. */
export function contextOf({ tempos, meters }: Pick<Project, 'tempos' | 'meters'>): MusicalContext {
  let known = contexts.get(tempos)
  if (known?.meters !== meters) {
    known = { meters, context: { tempoMap: tempoMapOf(tempos), meterMap: new MeterMap(meters) } }
    contexts.set(tempos, known)
  }
  return known.context
}
