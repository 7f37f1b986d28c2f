import { z } from '../border/checks'
import { lastTick } from './units'

/** A position in a piece. */
export const tickSchema = z.number().int().min(0).max(lastTick)

export const tempoChangesSchema = z
  .array(z.object({ tick: tickSchema, tempoBpm: z.number().min(4).max(1000) }))
  .min(1)

const meterShape = {
  numerator: z.number().int().min(1).max(64),
  denominator: z.union([
    z.literal(1),
    z.literal(2),
    z.literal(4),
    z.literal(8),
    z.literal(16),
    z.literal(32),
    z.literal(64),
  ]),
}

export const meterChangesSchema = z
  .array(z.object({ tick: tickSchema, ...meterShape, writtenIn: z.object(meterShape).optional() }))
  .min(1)

/** A stretch of a piece, its end not included. */
export const stretchSchema = z.object({ startTicks: tickSchema, endTicks: tickSchema })

export type Stretch = Readonly<z.infer<typeof stretchSchema>>
