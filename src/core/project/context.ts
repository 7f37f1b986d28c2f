import type { MusicalContext } from '../effects/noteEffect'
import type { MeterChange } from '../time/meterMap'
import { MeterMap } from '../time/meterMap'
import type { TempoChange } from '../time/tempoMap'
import { tempoMapOf } from '../time/tempoMap'

const contexts = new WeakMap<
  readonly TempoChange[],
  { readonly meters: readonly MeterChange[]; readonly context: MusicalContext }
>()

/** Where time is in a piece: what effects, generators and pictures may know of it; the same object as long as its tempi and meters are. */
export function contextOf({
  tempos,
  meters,
}: {
  readonly tempos: readonly TempoChange[]
  readonly meters: readonly MeterChange[]
}): MusicalContext {
  let known = contexts.get(tempos)
  if (known?.meters !== meters) {
    known = { meters, context: { tempoMap: tempoMapOf(tempos), meterMap: new MeterMap(meters) } }
    contexts.set(tempos, known)
  }
  return known.context
}
