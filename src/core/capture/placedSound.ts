import type { KeptStretch } from '../sound/keptSound'
import { TempoMap } from '../time/tempoMap'
import type { Milliseconds, Ticks } from '../time/units'
import { stretchOf, type TakeInfo } from './takeInfo'
import { saidOf, takeTicksAt } from './takePlacement'

/** Where the sound of a player in a take lies. */
export interface PlacedSound {
  /** When it was played, as late as its player is. */
  readonly stretch: KeptStretch
  /** Where a moment of it lies in the piece: along the tempi it was played to, or the clock. */
  ticksAt(epochMs: Milliseconds): Ticks
}

/** Followed notes come on this channel. */
const soundChannel = 1

/** The sound of a take lies as its notes do: by what is taken off for its player, along what was played to. */
export function placedSound(take: TakeInfo, portId: string): PlacedSound {
  const placement = { ...take, tempoMap: new TempoMap(take.tempos) }
  const lateMs = saidOf(take.compensations, portId, soundChannel)?.compensationMs ?? 0
  const { fromMs, toMs } = stretchOf(take)
  return {
    stretch: { fromMs: fromMs + lateMs, toMs: toMs + lateMs },
    ticksAt: (epochMs) => takeTicksAt(placement, epochMs - lateMs),
  }
}
