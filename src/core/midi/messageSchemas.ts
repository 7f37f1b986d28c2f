import { z } from '../border/checks'

/** Numbers of MIDI 1.0 as they are stored. Channels are 1–16. */
export const channelSchema = z.number().int().min(1).max(16)
export const keySchema = z.number().int().min(0).max(127)
/** Of a note-on: 0 would be a note-off. */
export const velocitySchema = z.number().int().min(1).max(127)
