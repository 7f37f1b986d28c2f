import type { Ticks } from '../time/units'
import type { LaterNotes } from './later'
import type { EffectNoteOn, Emit } from './noteEffect'

/** Strokes this close to the first belong to one chord: about 20 ms at 120 bpm. */
export const togetherTicks: Ticks = 420

/** A note of a chord that comes together, and its end where it ended before the chord was complete. */
export interface GatheredNote {
  readonly on: EffectNoteOn
  end: { readonly tick: Ticks; readonly velocity: number } | null
}

/** Waits for the notes of a chord to come together. */
export class GatheredChord {
  private notes: GatheredNote[] = []

  add(on: EffectNoteOn): void {
    this.notes.push({ on, end: null })
  }

  /** @returns whether the note that ends is still waited with */
  end(of: EffectNoteOn, tick: Ticks, velocity: number): boolean {
    const waiting = this.notes.find(({ on }) => on === of)
    if (waiting) waiting.end = { tick, velocity }
    return waiting !== undefined
  }

  /** The position at which the chord is complete; none while there is no chord. */
  get completeTicks(): Ticks {
    const first = this.notes[0]
    return first ? first.on.tick + togetherTicks : Number.POSITIVE_INFINITY
  }

  /** The notes of the complete chord by height; the next chord can come. */
  take(isFromAbove: boolean): GatheredNote[] {
    const notes = this.notes.sort((a, b) => (isFromAbove ? b.on.key - a.on.key : a.on.key - b.on.key))
    this.notes = []
    return notes
  }
}

/** Time passes for an effect that waits for chords: what is due comes out, and a chord that is complete by then is released. */
export function advanceGathered(
  chord: GatheredChord,
  later: LaterNotes,
  release: (atTicks: Ticks) => void,
  toTicks: Ticks,
  emit: Emit,
): void {
  const atTicks = chord.completeTicks
  if (atTicks < toTicks) {
    later.emitBefore(atTicks, emit)
    release(atTicks)
  }
  later.emitBefore(toTicks, emit)
}
