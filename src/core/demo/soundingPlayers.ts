import { type PartNote, type PlayerHabits, performPart } from '../capture/performer'
import { chance } from '../effects/chance'
import type { ListenerPreset } from '../pitch/listenerSettings'
import type { PlayedTone } from '../sound/models/playedTone'
import type { TempoMap } from '../time/tempoMap'
import type { Milliseconds, Ticks } from '../time/units'
import { partLine } from './partLine'

/** What a player who is heard, not read, plays on. */
export const soundingModels = ['pluckedString', 'blownPipe', 'sungVowel'] as const
export type SoundingModel = (typeof soundingModels)[number]

/** A stand-in who sends no notes: only the sound of an instrument comes from them. */
export interface SoundingPlayer {
  /** Of the input they play into. */
  readonly deviceId: string
  readonly name: string
  readonly description: string
  readonly preset: ListenerPreset
  readonly model: SoundingModel
  readonly habits: PlayerHabits
  /** How far from the middle of a key they play, as a standard deviation. */
  readonly outOfTuneCents: number
  readonly part: readonly PartNote[]
}

const guitarLine = `
  D3:.5 A3:.5 D4:.5 F4:.5 E4:.5 D4:.5 A3:1 | Bb2:.5 F3:.5 Bb3:.5 D4:.5 C4:.5 Bb3:.5 F3:1 |
  F3:.5 C4:.5 F4:.5 A4:.5 G4:.5 F4:.5 C4:1 | C3:.5 G3:.5 C4:.5 E4:.5 D4:.5 C4:.5 E4:1 |
  G3:.5 Bb3:.5 D4:.5 G4:.5 F4:.5 D4:.5 Bb3:1 | D4:.5 C4:.5 A3:.5 F3:.5 D3:2 |
  A3:.5 C#4:.5 E4:.5 G4:.5 E4:.5 C#4:.5 A3:1 | D4:1 A3:1 D3:2 |
  Bb3:.5 D4:.5 F4:1 D4:.5 Bb3:.5 F3:1 | A3:.5 C4:.5 F4:1 C4:.5 A3:.5 F3:1 | G3:1 Bb3:.5 D4:.5 G4:2 | A3:1 C#4:1 E4:2 |
  D4:.5 D4:.5 F4:.5 A4:.5 D5:1 A4:1 | Bb4:.5 A4:.5 G4:.5 F4:.5 D4:2 | G4:1 E4:1 C#4:1 E4:1 | D4:4`

const pipeLine = `
  A4:2 F4:1 A4:1 | Bb4:2 F4:2 | C5:1 A4:1 F4:2 | G4:2 E4:1 C4:1 | D4:1 G4:1 Bb4:2 | A4:2 F4:2 | E4:1 G4:1 A4:2 | F4:2 D4:2 |
  D5:1.5 C5:.5 Bb4:2 | C5:1.5 Bb4:.5 A4:2 | Bb4:1 A4:1 G4:2 | A4:3 r:1 | F4:1 A4:1 D5:2 | D5:1 Bb4:1 F4:2 | G4:2 E4:2 | D4:4`

const vowelLine = `
  D4:2 E4:1 F4:1 | F4:2 D4:2 | C4:1 D4:1 F4:2 | E4:3 r:1 | G4:2 F4:1 E4:1 | F4:1 D4:1 A3:2 | C#4:2 E4:2 | D4:3 r:1 |
  F4:2 G4:1 F4:1 | A4:2 F4:2 | G4:1 F4:1 D4:2 | E4:3 r:1 | D4:1 F4:1 A4:2 | Bb4:1 A4:1 F4:2 | G4:1 F4:1 E4:2 | D4:4`

/** Three of the town's people whom no cable reaches. */
export const soundingPlayers: readonly SoundingPlayer[] = [
  {
    deviceId: 'stand-in-guitar',
    name: 'Tove’s guitar',
    description: 'a plucked string',
    preset: 'guitar',
    model: 'pluckedString',
    habits: { channel: 1, deviationMs: 9, biasMs: 2, gate: 0.97, velocitySpread: 9, seed: 71 },
    outOfTuneCents: 4,
    part: partLine(guitarLine, 92),
  },
  {
    deviceId: 'stand-in-pipe',
    name: 'Calder’s pipe',
    description: 'a blown pipe',
    preset: 'wind',
    model: 'blownPipe',
    habits: { channel: 1, deviationMs: 12, biasMs: 4, gate: 0.94, velocitySpread: 8, seed: 83 },
    outOfTuneCents: 7,
    part: partLine(pipeLine, 84),
  },
  {
    deviceId: 'stand-in-voice',
    name: 'Linnet’s voice',
    description: 'a sung vowel',
    preset: 'voice',
    model: 'sungVowel',
    habits: { channel: 1, deviationMs: 14, biasMs: 8, gate: 0.95, velocitySpread: 7, seed: 97 },
    outOfTuneCents: 11,
    part: partLine(vowelLine, 86),
  },
]

/** The stand-in who plays into an input; undefined for inputs of the machine. */
export const standInAt = (deviceId: string) => soundingPlayers.find((player) => player.deviceId === deviceId)

/** A tone, and when it is begun after the start of the performance. */
export interface TimedTone {
  readonly timeMs: Milliseconds
  readonly tone: PlayedTone
}

/**
 * What a sounding player plays from a position on, with their time, force and intonation. One tone at a time: each is let go when the next
 * begins.
 *
 * @param variation every performance is another one
 */
export function performSounding(
  player: SoundingPlayer,
  tempoMap: TempoMap,
  fromTicks: Ticks,
  variation = 0,
): TimedTone[] {
  const seed = player.habits.seed + variation * 101
  const messages = performPart(player.part, { ...player.habits, seed }, tempoMap, fromTicks)
  const begun = messages.filter(({ bytes }) => (bytes[0] & 0xf0) === 0x90)
  return begun.map(({ timeMs, bytes: [, key, velocity] }, index) => {
    const ended = messages.find(
      (end) => (end.bytes[0] & 0xf0) === 0x80 && end.bytes[1] === key && end.timeMs > timeMs,
    )
    const nextMs = begun[index + 1]?.timeMs ?? Number.POSITIVE_INFINITY
    const endMs = Math.min(ended?.timeMs ?? nextMs, nextMs)
    return {
      timeMs,
      tone: {
        key,
        velocity,
        // The middle of three even chances is near enough to a bell.
        offCents:
          player.outOfTuneCents *
          (chance(seed, index, 5) + chance(seed, index, 6) + chance(seed, index, 7) - 1.5) *
          2,
        seconds: (endMs - timeMs) / 1000,
        seed: seed * 1000 + index,
      },
    }
  })
}
