import type { Note } from './note'

/** A drawn note for tests: a quarter of middle C at the beginning, except for what is said. */
export function drawnNote(fields: Partial<Note> = {}): Note {
  return {
    id: 1,
    onsetTicks: 0,
    durationTicks: 10_080,
    key: 60,
    velocity: 80,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'drawn' },
    ...fields,
  }
}
