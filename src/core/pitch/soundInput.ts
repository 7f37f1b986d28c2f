import { z } from '../border/checks'
import { boundedName, longestName } from '../text/bounded'
import {
  highestConcertHz,
  type ListenerPreset,
  listenerPresets,
  listenerSettingsOf,
  lowestConcertHz,
} from './listenerSettings'

/** The longest identifier of an input that a browser or a stand-in gives. */
const longestDeviceId = 512
/** Channels an input may have. */
export const mostInputChannels = 32

/** An input of sound that is followed as a player, and how it is listened to. */
export const soundInputSchema = z
  .object({
    /** As the browser calls it; '' for the one that the system uses. */
    deviceId: z.string().max(longestDeviceId),
    /** By which it is found again when the browser has given it another identifier. */
    deviceName: z.string().max(longestName),
    inputChannel: z.number().int().min(1).max(mostInputChannels),
    preset: z.enum(listenerPresets),
    lowKey: z.number().int().min(12).max(108),
    highKey: z.number().int().min(12).max(108),
    gateDb: z.number().min(-90).max(-10),
    shortestMs: z.number().min(20).max(400),
    sensitivity: z.number().min(0).max(1),
    concertHz: z.number().min(lowestConcertHz).max(highestConcertHz),
    /** Between the keys is sent as pitch bend; else notes are rounded to them. */
    doesBend: z.boolean(),
  })
  .refine(({ lowKey, highKey }) => lowKey < highKey, 'the lowest key must lie below the highest')
export type SoundInput = Readonly<z.infer<typeof soundInputSchema>>

/** An input as it is listened to at first. */
export function soundInputOf(deviceId: string, deviceName: string, preset: ListenerPreset): SoundInput {
  return {
    deviceId,
    deviceName: boundedName(deviceName),
    inputChannel: 1,
    preset,
    ...listenerSettingsOf[preset],
    doesBend: false,
  }
}

/** The same input, listened to as another kind of source. */
export function withPreset(input: SoundInput, preset: ListenerPreset): SoundInput {
  return { ...input, preset, ...listenerSettingsOf[preset], concertHz: input.concertHz }
}
