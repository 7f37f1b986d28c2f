import { TempoMap } from '../../time/tempoMap'
import { TICKS_PER_QUARTER } from '../../time/units'
import type { MidiFile } from './model'
import { conductorEvents } from './parts'

/** The tempi of a file, by ticks of a piece: a file's own are scaled to these, and not rounded. */
export function tempoMapOf(file: MidiFile): TempoMap {
  return new TempoMap(
    conductorEvents(file).flatMap((event) =>
      event.type === 'tempo'
        ? [
            {
              tick: (event.tick * TICKS_PER_QUARTER) / file.divisionTicksPerQuarter,
              tempoBpm: 6e7 / event.microsecondsPerQuarter,
            },
          ]
        : [],
    ),
  )
}
