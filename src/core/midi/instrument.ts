import { z } from '../border/checks'

/** What a track sounds as: a General MIDI program (from 0), the drum kit, or nothing. */
export const instrumentSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('program'), program: z.number().int().min(0).max(127) }),
  z.object({ kind: z.literal('drums') }),
  /** Silent here: for a track that only sends to another program. */
  z.object({ kind: z.literal('none') }),
])

export type Instrument = Readonly<z.infer<typeof instrumentSchema>>
