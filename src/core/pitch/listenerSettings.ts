/** Samples to the second at which sound is listened to. Harmonics up to 11 kHz tell pitch and attack well enough. */
export const listeningRate = 22_050

/** Kinds of sources whose sound is followed, each with a range and touch of its own. */
export const listenerPresets = ['any', 'voice', 'guitar', 'bass', 'wind', 'string'] as const
export type ListenerPreset = (typeof listenerPresets)[number]

/** What somebody who follows a line is told of the source. */
export interface ListenerSettings {
  /** The lowest and highest key that is played (60 is middle C). */
  readonly lowKey: number
  readonly highKey: number
  /** Softer than this is silence, in decibels below full scale. */
  readonly gateDb: number
  /** What is shorter is no note. */
  readonly shortestMs: number
  /** How readily something is taken for a new attack, from 0 (only the plainest) to 1. */
  readonly sensitivity: number
  /** Frequency of A4, which all pitches are told from. */
  readonly concertHz: number
}

export const listenerSettingsOf: Readonly<Record<ListenerPreset, ListenerSettings>> = {
  any: { lowKey: 28, highKey: 96, gateDb: -55, shortestMs: 50, sensitivity: 0.5, concertHz: 440 },
  voice: { lowKey: 36, highKey: 84, gateDb: -50, shortestMs: 80, sensitivity: 0.3, concertHz: 440 },
  guitar: { lowKey: 38, highKey: 88, gateDb: -55, shortestMs: 50, sensitivity: 0.5, concertHz: 440 },
  bass: { lowKey: 23, highKey: 67, gateDb: -55, shortestMs: 60, sensitivity: 0.5, concertHz: 440 },
  wind: { lowKey: 34, highKey: 98, gateDb: -50, shortestMs: 60, sensitivity: 0.4, concertHz: 440 },
  string: { lowKey: 28, highKey: 100, gateDb: -50, shortestMs: 60, sensitivity: 0.35, concertHz: 440 },
}

/** Where a frequency lies between the keys, 69 being A4. */
export function keyOfFrequency(frequencyHz: number, concertHz: number): number {
  return 69 + 12 * Math.log2(frequencyHz / concertHz)
}

export function frequencyOfKey(key: number, concertHz: number): number {
  return concertHz * 2 ** ((key - 69) / 12)
}

/** Concert pitches that somebody may ask for, from the lowest old one to the highest. */
export const lowestConcertHz = 380
export const highestConcertHz = 500

/** What plays the notes of each kind of source: General MIDI programs from 0. */
export const programOf: Readonly<Record<ListenerPreset, number>> = {
  any: 0,
  voice: 53,
  guitar: 24,
  bass: 33,
  wind: 73,
  string: 40,
}
