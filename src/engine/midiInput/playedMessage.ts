import type { Milliseconds } from '@/core/time/units'
import { timeStampAt } from '../clock'

/** A MIDI message event of the W3C shape, for ports that are not the machine's: data and the time stamp of the stroke. */
export class PlayedMessageEvent extends Event {
  /** @param playedMs on the epoch clock */
  constructor(
    readonly data: Uint8Array,
    playedMs: Milliseconds,
  ) {
    super('midimessage')
    // The browser's own time stamp is when the event was made.
    Object.defineProperty(this, 'timeStamp', { value: timeStampAt(playedMs) })
  }
}
