import type { TempoChange } from './tempoMap'

/** How much slower or faster than written something can be played. */
export const slowestPercent = 25
export const fastestPercent = 150
export const speedPercents = [25, 40, 50, 60, 70, 80, 90, 100, 110, 125, 150] as const

/** As stored tempi are: slower or faster than these nothing is played. */
const slowestBpm = 4
const fastestBpm = 1000

const scaledOf = new WeakMap<readonly TempoChange[], Map<number, TempoChange[]>>()

/**
 * The tempi of a piece that is played slower or faster, the same list each time they are asked for.
 *
 * @example atSpeed([{ tick: 0, tempoBpm: 120 }], 50) // [{ tick: 0, tempoBpm: 60 }]
 */
export function atSpeed(tempos: TempoChange[], percent: number): TempoChange[] {
  if (percent === 100) return tempos
  const known = scaledOf.get(tempos) ?? new Map<number, TempoChange[]>()
  scaledOf.set(tempos, known)
  let scaled = known.get(percent)
  if (!scaled) {
    scaled = tempos.map(({ tick, tempoBpm }) => ({
      tick,
      tempoBpm: Math.max(slowestBpm, Math.min(fastestBpm, (tempoBpm * percent) / 100)),
    }))
    known.set(percent, scaled)
  }
  return scaled
}
