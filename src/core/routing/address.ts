import { z } from '../border/checks'
import { channelSchema } from '../midi/messageSchemas'
import { longestPortId } from '../text/bounded'

export const portIdSchema = z.string().min(1).max(longestPortId)

/** Where a note stream comes from or goes to: a port, and the channel on it (null: any channel). */
export const inputAddressSchema = z.object({
  portId: portIdSchema,
  channel: channelSchema.nullable(),
})

/** A stream as one word, for tables: the same words are the same stream. */
export function streamKey({
  portId,
  channel,
}: {
  readonly portId: string
  readonly channel: number | null
}): string {
  return `${portId} ${channel}`
}

export type InputAddress = Readonly<z.infer<typeof inputAddressSchema>>
