import { chance } from '../effects/noteEffect'
import type { TempoMap } from '../time/tempoMap'
import type { Milliseconds, Ticks } from '../time/units'

/** A written note of a stand-in player's part. */
export interface PartNote {
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly key: number
  /** 1–127, before the player's own unevenness. */
  readonly velocity: number
}

/** How a stand-in plays. */
export interface PlayerHabits {
  /** 1–16. */
  readonly channel: number
  /** Standard deviation of the timing. */
  readonly deviationMs: Milliseconds
  /** Always this much late (or early, when negative). */
  readonly biasMs: Milliseconds
  /** Part of the written value a note is held. */
  readonly gate: number
  readonly velocitySpread: number
  readonly seed: number
}

/** A message with its time after the start of the performance. */
export interface PerformedMessage {
  readonly timeMs: Milliseconds
  readonly bytes: readonly [status: number, data1: number, data2: number]
}

/**
 * Performs a written part as a person would: every note a little early or late, louder or softer, held for about the
 * gate. Notes of a chord are struck within a few milliseconds of each other. The same seed plays the same way.
 *
 * @param startTicks where in the part the performance begins
 * @returns messages in order of time; at one moment, releases first
 */
export function performPart(
  notes: readonly PartNote[],
  habits: PlayerHabits,
  tempoMap: TempoMap,
  startTicks: Ticks,
): PerformedMessage[] {
  const startMs = tempoMap.msAt(startTicks)
  const messages: PerformedMessage[] = []
  const nibble = habits.channel - 1
  const lastOff = new Map<number, number>()
  for (const [index, note] of notes.entries()) {
    if (note.onsetTicks < startTicks) continue
    const chordSlip = gaussian(habits.seed, note.onsetTicks, 0) * habits.deviationMs
    const ownSlip = gaussian(habits.seed, index, 1) * Math.min(4, habits.deviationMs / 3)
    const writtenMs = tempoMap.msAt(note.onsetTicks) - startMs
    const lengthMs = tempoMap.msAt(note.onsetTicks + note.durationTicks) - startMs - writtenMs
    const onMs = Math.max(
      writtenMs + habits.biasMs + chordSlip + ownSlip,
      (lastOff.get(note.key) ?? -1e9) + 5,
    )
    const heldMs = Math.max(30, lengthMs * habits.gate + gaussian(habits.seed, index, 2) * habits.deviationMs)
    const velocity = Math.round(note.velocity + gaussian(habits.seed, index, 3) * habits.velocitySpread)
    lastOff.set(note.key, onMs + heldMs)
    messages.push({ timeMs: onMs, bytes: [0x90 | nibble, note.key, Math.max(1, Math.min(127, velocity))] })
    messages.push({ timeMs: onMs + heldMs, bytes: [0x80 | nibble, note.key, 64] })
  }
  return messages.sort((a, b) => a.timeMs - b.timeMs || (a.bytes[0] & 0xf0) - (b.bytes[0] & 0xf0))
}

/** Normally distributed number from the seed and two counters, cut at 2.5 deviations: nobody slips further. */
function gaussian(seed: number, counter: number, kind: number): number {
  const u = Math.max(1e-9, chance(seed, counter, kind * 2 + 1))
  const v = chance(seed, counter, kind * 2 + 2)
  const value = Math.sqrt(-2 * Math.log(u)) * Math.cos(2 * Math.PI * v)
  return Math.max(-2.5, Math.min(2.5, value))
}
