import type { Ticks } from '../time/units'
import type { EffectSlot } from './catalogue'
import type { ChainChange } from './chain'

/** Changes of effects less far apart than this are one: a slider that is being dragged. */
const sameGestureTicks: Ticks = 2520

/**
 * What was changed in a chain while it played, with one more change; those of one gesture are one, where it began.
 *
 * @param tick where the piece was, exactly; before its beginning (a count-in) is at its beginning
 */
export function withChange(
  changes: readonly ChainChange[],
  tick: Ticks,
  slots: readonly EffectSlot[],
): ChainChange[] {
  const at = Math.max(0, Math.round(tick))
  const last = changes.at(-1)
  const isSameGesture = last !== undefined && at >= last.tick && at - last.tick < sameGestureTicks
  return isSameGesture
    ? [...changes.slice(0, -1), { tick: last.tick, slots }]
    : [...changes, { tick: at, slots }]
}
