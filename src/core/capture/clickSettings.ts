import { z } from '../border/checks'
import { percussionChannel } from '../midi/generalMidi'
import { portIdSchema } from '../routing/address'

export const clickSchema = z.object({
  isOn: z.boolean(),
  hasAccent: z.boolean(),
  /** Clicks to the beat. */
  subdivision: z.union([z.literal(1), z.literal(2), z.literal(3), z.literal(4)]),
  level: z.number().min(0).max(1),
  /** Where in the room: on both sides, or on one that goes to headphones. */
  side: z.enum(['both', 'left', 'right']),
  /** Port or cable that gets the click as notes, instead of the sound here. */
  portId: portIdSchema.nullable(),
  /** 1–16: where it is sent there. */
  channel: z.number().int().min(1).max(16).default(percussionChannel),
})

export type ClickSettings = Readonly<z.infer<typeof clickSchema>>

export const defaultClick: ClickSettings = {
  isOn: true,
  hasAccent: true,
  subdivision: 1,
  level: 0.7,
  side: 'both',
  portId: null,
  channel: percussionChannel,
}
