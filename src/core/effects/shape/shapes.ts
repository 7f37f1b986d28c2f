import type { Ticks } from '../../time/units'
import { chance } from '../chance'

export const shapeNames = [
  'sine',
  'triangle',
  'rising',
  'falling',
  'steps',
  'random and hold',
  'drawn',
] as const
export type ShapeName = (typeof shapeNames)[number]

/**
 * A value that moves with the position alone, so that it is the same live and printed.
 *
 * @param points 0–100, for steps (held) and for a drawn shape (joined by lines)
 * @returns 0–1
 */
export function shapeAt(
  shape: ShapeName,
  periodTicks: Ticks,
  tick: Ticks,
  points: readonly number[],
  seed: number,
): number {
  const turn = Math.floor(tick / periodTicks)
  const phase = tick / periodTicks - turn
  switch (shape) {
    case 'sine':
      return 0.5 - 0.5 * Math.cos(2 * Math.PI * phase)
    case 'triangle':
      return phase < 0.5 ? 2 * phase : 2 - 2 * phase
    case 'rising':
      return phase
    case 'falling':
      return 1 - phase
    case 'random and hold':
      return chance(seed, turn)
    case 'steps':
      return points.length === 0 ? 0 : points[Math.floor(phase * points.length)]! / 100
    case 'drawn': {
      if (points.length === 0) return 0
      const at = phase * points.length
      const index = Math.floor(at)
      const next = points[(index + 1) % points.length]!
      return (points[index]! + (next - points[index]!) * (at - index)) / 100
    }
  }
}
