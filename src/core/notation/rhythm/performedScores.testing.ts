import type { Note } from '../../event/note'
import { gaussian, randomSource } from '../../event/randomSource.testing'

/** Written notes of known rhythm, for tests: positions and lengths in ticks (10,080 to the quarter). */
export interface KnownNote {
  readonly onsetTicks: number
  readonly durationTicks: number
  readonly key: number
}

const quarter = 10_080

/** Lengths of one bar of 4/4 in sixteenths; negative is a rest, fractions are triplet eighths (4/3). */
const third = 4 / 3
export const rhythmVocabularies: Readonly<Record<string, readonly (readonly number[])[]>> = {
  straight: [
    [4, 4, 4, 4],
    [2, 2, 2, 2, 4, 4],
    [8, 4, 2, 2],
    [1, 1, 1, 1, 4, 2, 2, 4],
    [2, 1, 1, 4, 2, 1, 1, 4],
    [4, 1, 1, 2, 8],
    [16],
  ],
  dotted: [
    [6, 2, 6, 2],
    [3, 1, 3, 1, 4, 4],
    [12, 4],
    [6, 2, 8],
    [4, 3, 1, 4, 3, 1],
    [8, 6, 2],
  ],
  syncopated: [
    [2, 4, 4, 4, 2],
    [2, 4, 2, 4, 4],
    [3, 3, 2, 3, 3, 2],
    [1, 2, 1, 4, 2, 4, 2],
    [4, 2, 4, 6],
    [6, 6, 4],
  ],
  triplets: [
    [third, third, third, 4, 4, 4],
    [third, third, third, third, third, third, 8],
    [4, third * 2, third, third * 2, third, 4],
    [4, third, third, third, 4, third, third, third],
    [2, 2, third, third, third, 4, 4],
    [8, third, third, third, third, third, third],
  ],
  rests: [
    [4, -4, 4, -4],
    [2, -2, 2, -2, 4, -4],
    [-2, 2, 4, -2, 2, 4],
    [-4, 4, 2, 2, -4],
    [8, -8],
    [3, -1, 3, -1, -4, 4],
  ],
  'ties over the bar': [
    [4, 4, 4, 8, 4, 4, 4],
    [2, 2, 4, 4, 6, 2, 4, 4, 4],
    [12, 8, 4, 8],
    [4, 2, 2, 4, 2, 4, 2, 4, 8],
  ],
}

/** A piece of about `bars` bars in 4/4 from one vocabulary; with chords, some notes become triads. */
export function composeKnownScore(
  style: string,
  bars: number,
  seed: number,
  withChords = false,
): KnownNote[] {
  const random = randomSource(seed)
  const notes: KnownNote[] = []
  const vocabulary = rhythmVocabularies[style]!
  const end = bars * quarter * 4
  let position = 0
  let key = 67
  while (position < end) {
    const bar = vocabulary[Math.floor(random() * vocabulary.length)]!
    for (const length of bar) {
      const durationTicks = Math.round((Math.abs(length) * quarter) / 4)
      if (length > 0) {
        key = Math.max(60, Math.min(84, key + Math.floor(random() * 9) - 4))
        const chord = withChords && random() < 0.4 ? [0, 4, 7] : [0]
        for (const interval of chord) notes.push({ onsetTicks: position, durationTicks, key: key + interval })
      }
      position += durationTicks
    }
  }
  return notes
}

/** The notes as a player with Gaussian timing errors (onset and end each) plays them. */
export function perform(
  notes: readonly KnownNote[],
  player: { deviationMs: number; tempoBpm: number; gate?: number; biasMs?: number; seed: number },
): Note[] {
  const random = randomSource(player.seed)
  const ticksPerMs = (player.tempoBpm * quarter) / 60_000
  return notes.map((note, index) => {
    const slip = () => gaussian(random) * player.deviationMs * ticksPerMs
    const onsetTicks = Math.max(0, Math.round(note.onsetTicks + slip() + (player.biasMs ?? 0) * ticksPerMs))
    const endTicks = Math.round(note.onsetTicks + note.durationTicks * (player.gate ?? 1) + slip())
    return {
      id: index + 1,
      onsetTicks,
      durationTicks: Math.max(200, endTicks - onsetTicks),
      key: note.key,
      velocity: 80,
      releaseVelocity: 64,
      channel: 1,
      origin: { kind: 'drawn' },
    }
  })
}
