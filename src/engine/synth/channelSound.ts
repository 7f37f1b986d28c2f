import type { Track } from '@/core/project/schema'

/** Channel of the synthesiser that the click plays on; tracks come after it. */
export const clickSynthChannel = 0

/** How a track sounds; null where it has no instrument here. */
export function channelSoundOf({ instrument, volume, pan, tuningCents }: Track) {
  if (instrument.kind === 'none') return null
  return {
    instrument: instrument.kind === 'drums' ? ('drums' as const) : instrument.program,
    volume,
    pan,
    tuningCents,
  }
}
