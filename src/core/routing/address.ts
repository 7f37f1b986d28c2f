import { z } from '../border/checks'
import { channelSchema } from '../midi/messageSchemas'
import { longestPortId } from '../text/bounded'

export const portIdSchema = z.string().min(1).max(longestPortId)

/** Where a note stream comes from or goes to: a port, and the channel on it (null: any channel). */
export const inputAddressSchema = z.object({
  portId: portIdSchema,
  channel: channelSchema.nullable(),
})

export type InputAddress = Readonly<z.infer<typeof inputAddressSchema>>
