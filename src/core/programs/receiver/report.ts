import { z } from '../../border/checks'
import type { LeftOut } from './takeDown'

const writtenSchema = z.object({
  channel: z.number().int().min(1).max(16),
  key: z.number().int().min(0).max(127),
  onsetTicks: z.number().int().min(0),
  durationTicks: z.number().int().min(1),
  /** Of all staves of the receiver, from the top. */
  staff: z.number().int().min(0).max(63),
})

/** What a receiver says over the cable of what it has written since it was asked for. */
export const receiverReportSchema = z.object({
  program: z.string().max(60),
  /** What its staves are called, from the top. */
  staves: z.array(z.string().max(80)).max(64),
  written: z.array(writtenSchema).max(200_000),
  leftOut: z.object({
    'too soft': z.number(),
    'too short': z.number(),
    'no staff for its channel': z.number(),
  } satisfies Record<Exclude<LeftOut, 'written already'>, z.ZodNumber>),
})

export type ReceiverReport = Readonly<z.infer<typeof receiverReportSchema>>
export type ReportedNote = ReceiverReport['written'][number]
