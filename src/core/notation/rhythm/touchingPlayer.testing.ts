import type { Note } from '../../event/note'
import { drawnNote } from '../../event/notes.testing'
import { gaussian, randomSource } from '../../event/randomSource.testing'
import type { KnownNote } from './performedScores.testing'

const quarter = 10_080

/** Ways of touching the keys, as parts of the written value, drawn anew for each note. */
export const touches = {
  even: (random: () => number) => 0.93 + 0.04 * (random() - 0.5),
  legato: (random: () => number) => 1 + 0.12 * random(),
  detached: (random: () => number) => 0.62 + 0.2 * random(),
  staccato: (random: () => number) => 0.28 + 0.27 * random(),
  accented: (random: () => number, index: number) => (index % 4 === 0 ? 0.98 : 0.7 + 0.15 * random()),
  'every fourth short': (random: () => number, index: number) =>
    index % 4 === 3 ? 0.4 + 0.1 * random() : 0.95 + 0.04 * (random() - 0.5),
  /** Some notes in a row of each. */
  mixed: (random: () => number, index: number) =>
    [
      () => 0.95 + 0.1 * (random() - 0.5),
      () => 0.3 + 0.25 * random(),
      () => 0.95 + 0.1 * (random() - 0.5),
      () => 0.65 + 0.2 * random(),
    ][Math.floor(index / 3) % 4]!(),
} as const
export type TouchName = keyof typeof touches

export interface TouchingPlayer {
  readonly touch: TouchName
  readonly tempoBpm: number
  /** Of onsets; ends vary by half more. */
  readonly errorMs: number
  /** Late throughout; early when negative. */
  readonly lateMs?: number
  /** Notes of a chord are struck within about this, from the lowest up. */
  readonly chordSpreadMs?: number
  /** The tempo swings by this share around what is marked, over sixteen quarters. */
  readonly swell?: number
  readonly seed: number
}

/**
 * A player for tests who shares no assumption with the reading: errors are the sum of a slow wander and a uniform slip, and notes
 * are held as the hand touches them.
 */
export function playTouched(notes: readonly KnownNote[], player: TouchingPlayer): Note[] {
  const random = randomSource(player.seed)
  const ticksPerMs = (player.tempoBpm * quarter) / 60_000
  let wander = 0
  let chord = -1
  let chordOnset = Number.NaN
  let gate = 1
  let place = 0
  return notes.map((note, index) => {
    if (note.onsetTicks !== chordOnset) {
      chordOnset = note.onsetTicks
      chord++
      place = 0
      gate = touches[player.touch](random, chord)
      wander = 0.8 * wander + 0.6 * gaussian(random) * player.errorMs * 0.6
    } else place++
    // A uniform slip with the same variance as what is left for it.
    const slip = () => (random() - 0.5) * Math.sqrt(12) * player.errorMs * 0.8
    const swellTicks =
      (player.swell ?? 0) * 4 * quarter * Math.sin((note.onsetTicks / quarter / 16) * 2 * Math.PI)
    const late = wander + (player.lateMs ?? 0) + place * ((player.chordSpreadMs ?? 0) / 3)
    const onsetTicks = Math.max(0, Math.round(note.onsetTicks + swellTicks + (late + slip()) * ticksPerMs))
    const endTicks = Math.round(
      note.onsetTicks + swellTicks + note.durationTicks * gate + (late + 1.5 * slip()) * ticksPerMs,
    )
    return drawnNote({
      id: index + 1,
      onsetTicks,
      durationTicks: Math.max(250, endTicks - onsetTicks),
      key: note.key,
    })
  })
}
