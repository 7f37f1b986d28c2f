import { z } from '../../border/checks'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import { shapeAt, shapeNames } from './shapes'

/** What a setting that moves with the bars is stored as, besides which setting it is. */
export const movementFields = {
  shape: z.enum(shapeNames),
  /** In quarter notes. */
  periodQuarters: z.number().min(0.25).max(256),
  from: z.number(),
  to: z.number(),
  points: z.array(z.number().min(0).max(100)).max(64),
}

const movementShape = z.object(movementFields)
export type MovementShape = Readonly<z.infer<typeof movementShape>>

/** Where a moving setting is at a position. */
export function movedTo(
  { shape, periodQuarters, from, to, points }: MovementShape,
  tick: Ticks,
  seed: number,
): number {
  return from + (to - from) * shapeAt(shape, periodQuarters * TICKS_PER_QUARTER, tick, points, seed)
}
