import type { Note } from '@/core/event/note'
import { packNotes } from '@/core/event/noteColumns'
import { noControls } from '@/core/notation/playedControls'
import { headOf } from '@/core/project/content'
import { emptyProject, newTrack } from '@/core/project/create'
import { TICKS_PER_QUARTER } from '@/core/time/units'
import type { EngravingToolkit } from './engraveLine'
import { Engraver } from './engraver'

/**
 * Reads and engraves a few invented bars, as a piano plays them: what a thread has done once it does several times as fast from then on,
 * and the first page of a piece need not wait for that.
 */
export function warmUp(toolkit: EngravingToolkit): void {
  const { project, track } = newTrack(emptyProject('warm-up', '', 0), {
    name: 'Piano',
    instrument: { kind: 'program', program: 0 },
  })
  const engraver = new Engraver(toolkit)
  const changed = [
    { trackId: track.id, notes: packNotes(inventedBars()), controls: noControls, manuscript: null },
  ]
  const { systems } = engraver.update(headOf(project), changed, {
    widthPx: 700,
    zoomPercent: 100,
    form: 'lines',
  })
  for (const index of systems.keys()) engraver.engrave(index)
}

/** Eighths, triplets, chords, leaps and held notes above, quarters below, none of them quite in time. */
function inventedBars(): Note[] {
  const steps = [0, 2, 3, 5, 7, 8, 11, 12, 14, 15]
  const notes: Omit<Note, 'id'>[] = []
  for (let beat = 0; beat < 48; beat++) {
    const parts = [2, 3, 1, 4][beat % 4]!
    for (let part = 0; part < parts; part++) {
      const chord = beat % 8 === 6 ? [0, 4, 7] : [0]
      for (const third of chord)
        notes.push(
          noteOf((beat + part / parts) * TICKS_PER_QUARTER, TICKS_PER_QUARTER / parts, {
            key: 62 + steps[(beat * 3 + part) % steps.length]! + third,
            velocity: 60 + ((beat * 7) % 50),
          }),
        )
    }
    notes.push(
      noteOf(beat * TICKS_PER_QUARTER, TICKS_PER_QUARTER, {
        key: 45 + steps[beat % steps.length]!,
        velocity: 70,
      }),
    )
  }
  return notes
    .sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key)
    .map((note, index) => ({ ...note, id: index + 1 }))
}

function noteOf(
  onsetTicks: number,
  lengthTicks: number,
  { key, velocity }: { readonly key: number; readonly velocity: number },
): Omit<Note, 'id'> {
  const late = (key * 37) % 400
  return {
    onsetTicks: Math.round(onsetTicks) + late,
    durationTicks: Math.round(lengthTicks * 0.85),
    key,
    velocity,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'generated' },
  }
}
