import { z } from '../border/checks'
import { chainChangesSchema, chainSchema } from '../effects/catalogue'
import { inputAddressSchema } from '../routing/address'
import { routeSchema } from '../routing/route'
import type { KeptStretch } from '../sound/keptSound'
import { longestName } from '../text/bounded'
import { tempoChangesSchema, tickSchema } from '../time/timeSchemas'

/** What is known of a take besides its events: enough to derive its notes again. */
export const takeInfoSchema = z.object({
  serial: z.number().int().min(1),
  name: z.string().max(longestName),
  recordedAtMs: z.number(),
  startTicks: tickSchema,
  /** The moment of `startTicks` on the sources' clock (milliseconds since the epoch). */
  anchorMs: z.number(),
  durationMs: z.number().min(0),
  eventCount: z.number().int().min(0),
  /** The tempi it was played to: its notes can be derived again after the tempo was changed. */
  tempos: tempoChangesSchema,
  /** The tracks that were armed, with their routes then. */
  listeners: z.array(z.object({ trackId: z.string(), routes: z.array(routeSchema) })),
  /** Lateness of sources that was taken off. */
  compensations: z.array(inputAddressSchema.extend({ compensationMs: z.number() })),
  /** Notes up to this much before the start belong to the downbeat. */
  earlyMs: z.number().min(0),
  /** Passes of one loop share the serial of the first; `pass` counts from 1. */
  loop: z.object({ firstSerial: z.number().int(), pass: z.number().int().min(1) }).nullable(),
  /** Moments and positions along a followed clock, in order; empty where the piece's own tempo was played to. */
  clockPoints: z.array(z.object({ timeMs: z.number(), ticks: z.number() })),
  /** The effects that sources played through, with what was changed while they played. */
  chains: z.array(inputAddressSchema.extend({ slots: chainSchema, changes: chainChangesSchema })),
})

export type TakeInfo = Readonly<z.infer<typeof takeInfoSchema>>

/** What a take is played to: along which tempi, for whom, how late, through which effects. */
export type PlayedTo = Pick<TakeInfo, 'tempos' | 'listeners' | 'compensations' | 'chains'>

/** The time a take was played in, on the epoch clock. */
export function stretchOf({ anchorMs, durationMs }: Pick<TakeInfo, 'anchorMs' | 'durationMs'>): KeptStretch {
  return { fromMs: anchorMs, toMs: anchorMs + durationMs }
}
