import { type ControllerEvent, type Note, noteEndTicks } from '../event/note'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'

/** The sustain pedal goes down and up again. */
export interface PedalSpan {
  readonly startTicks: Ticks
  readonly endTicks: Ticks
}

/** Controller 64; from the middle of its range on it is down (MIDI 1.0). */
const sustainController = 64
const downFrom = 64

/** Signs stand at eighths: feet come after the notes they belong to. */
const gridTicks: Ticks = TICKS_PER_QUARTER / 2

/**
 * When the pedal is down, as it was played.
 *
 * @param controllers in order
 * @param endTicks where a pedal that is never lifted ends
 */
export function pedalSpansOf(controllers: readonly ControllerEvent[], endTicks: Ticks): PedalSpan[] {
  const spans: PedalSpan[] = []
  let downTicks: Ticks | null = null
  for (const { kind, number, value, tick } of controllers) {
    if (kind !== 'controller' || number !== sustainController) continue
    const isDown = value >= downFrom
    if (isDown && downTicks === null) downTicks = tick
    else if (!isDown && downTicks !== null) {
      spans.push({ startTicks: downTicks, endTicks: tick })
      downTicks = null
    }
  }
  if (downTicks !== null && endTicks > downTicks) spans.push({ startTicks: downTicks, endTicks })
  return spans
}

/** Where the signs of the pedal are written; what is too short to be meant is left out. */
export function writtenPedal(spans: readonly PedalSpan[]): PedalSpan[] {
  const snap = (tick: Ticks) => Math.round(tick / gridTicks) * gridTicks
  const written: PedalSpan[] = []
  for (const span of spans) {
    const startTicks = Math.max(snap(span.startTicks), written.at(-1)?.endTicks ?? 0)
    const endTicks = snap(span.endTicks)
    if (endTicks > startTicks) written.push({ startTicks, endTicks })
  }
  return written
}

/**
 * Notes as long as they are heard: what is let go while the pedal is down sounds until it goes up, or its key is struck again.
 *
 * @param notes in order of onset
 * @param spans in order
 */
export function heldByPedal(notes: readonly Note[], spans: readonly PedalSpan[]): readonly Note[] {
  if (spans.length === 0) return notes
  const held = [...notes]
  const struckAgain = new Map<number, Ticks>()
  for (let index = notes.length - 1; index >= 0; index--) {
    const note = notes[index]!
    const endTicks = noteEndTicks(note)
    const span = spans.findLast(({ startTicks }) => startTicks <= endTicks)
    if (span && endTicks < span.endTicks) {
      const until = Math.min(span.endTicks, struckAgain.get(note.key) ?? Number.POSITIVE_INFINITY)
      if (until > endTicks) held[index] = { ...note, durationTicks: until - note.onsetTicks }
    }
    struckAgain.set(note.key, note.onsetTicks)
  }
  return held
}
