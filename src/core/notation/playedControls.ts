import type { ControllerEvent } from '../event/note'
import type { Ticks } from '../time/units'
import { type PedalSpan, pedalSpansOf } from './pedal'
import { type Swell, swellOf } from './swell'

/** What was played beside the notes, as far as it is written. */
export interface PlayedControls {
  /** When the sustain pedal is down, in order. */
  readonly pedals: readonly PedalSpan[]
  readonly swell: Swell | null
}

export const noControls: PlayedControls = { pedals: [], swell: null }

/**
 * @param events in order
 * @param endTicks end of the last note
 */
export function playedControlsOf(events: readonly ControllerEvent[], endTicks: Ticks): PlayedControls {
  return { pedals: pedalSpansOf(events, endTicks), swell: swellOf(events, endTicks) }
}
