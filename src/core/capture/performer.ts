import { chance } from '../effects/chance'
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

/** What a player moves besides keys. */
export type Expression = 'breath and bend' | 'sustain pedal' | 'hi-hat openness'

/** Moves of breath and hi-hat are sent about this often, as controllers do. */
const controllerEveryMs = 20

/**
 * The controllers that go with a performed part.
 *
 * - breath and bend: controller 2 swells and fades with each note, long notes are scooped up to by pitch bend
 * - sustain pedal: controller 64 goes down a little after each bar line and up at the next
 * - hi-hat openness: controller 4 opens towards an open hit (key 46) and closes after it
 *
 * @param messages what `performPart` gave, in order
 * @param barMs length of a bar
 * @returns messages in order of time
 */
export function performExpression(
  messages: readonly PerformedMessage[],
  expression: Expression,
  channel: number,
  barMs: Milliseconds,
): PerformedMessage[] {
  const nibble = channel - 1
  const out: PerformedMessage[] = []
  const controller = (timeMs: Milliseconds, number: number, value: number) =>
    out.push({ timeMs, bytes: [0xb0 | nibble, number, Math.max(0, Math.min(127, Math.round(value)))] })
  const endMs = messages.at(-1)?.timeMs ?? 0
  if (expression === 'sustain pedal') {
    for (let barStartMs = 0; barStartMs < endMs; barStartMs += barMs) {
      controller(barStartMs + 70, 64, 127)
      controller(barStartMs + barMs - 15, 64, 0)
    }
    return out
  }
  const isOn = (message: PerformedMessage) => (message.bytes[0] & 0xf0) === 0x90
  for (const [index, message] of messages.entries()) {
    if (!isOn(message)) continue
    const [, key, velocity] = message.bytes
    const off = messages.slice(index + 1).find((later) => !isOn(later) && later.bytes[1] === key)
    const lengthMs = (off?.timeMs ?? message.timeMs + 100) - message.timeMs
    if (expression === 'breath and bend') {
      for (let at = 0; at < lengthMs; at += controllerEveryMs) {
        const swell = Math.min(1, at / 90) * (1 - 0.35 * (at / lengthMs))
        controller(message.timeMs + at, 2, 20 + velocity * 0.8 * swell)
      }
      if (lengthMs > 500)
        for (let at = 0; at <= 100; at += controllerEveryMs) {
          const bend = 8192 - Math.round(900 * (1 - at / 100))
          out.push({ timeMs: message.timeMs + at, bytes: [0xe0 | nibble, bend & 0x7f, bend >> 7] })
        }
    } else if (key === openHiHatKey) {
      for (let at = -120; at <= 200; at += controllerEveryMs)
        controller(message.timeMs + at, 4, at < 0 ? 100 * (1 + at / 120) : 100 * (1 - at / 200))
    }
  }
  return out.filter(({ timeMs }) => timeMs >= 0).sort((a, b) => a.timeMs - b.timeMs)
}

/** General MIDI level 1 percussion map. */
const openHiHatKey = 46

/** Normally distributed number from the seed and two counters, cut at 2.5 deviations: nobody slips further. */
function gaussian(seed: number, counter: number, kind: number): number {
  const u = Math.max(1e-9, chance(seed, counter, kind * 2 + 1))
  const v = chance(seed, counter, kind * 2 + 2)
  const value = Math.sqrt(-2 * Math.log(u)) * Math.cos(2 * Math.PI * v)
  return Math.max(-2.5, Math.min(2.5, value))
}
