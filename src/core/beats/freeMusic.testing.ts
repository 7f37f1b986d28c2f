import { randomSource } from '../event/randomSource.testing'
import { knownScores, notesOfKnownScore } from '../notation/knownScores.testing'
import { beatUnitTicks } from '../time/meterMap'
import { TICKS_PER_QUARTER } from '../time/units'
import type { FreeMusic } from './freePlayer.testing'

/** The known scores, as music for somebody to play freely. */
export const freeScores: readonly (FreeMusic & { readonly title: string })[] = knownScores.map((score) => ({
  title: score.title,
  notes: notesOfKnownScore(score),
  beatQuarters: beatUnitTicks(score.meter) / TICKS_PER_QUARTER,
  firstBarLineQuarters: score.firstBarLine / 4,
  barQuarters: (score.meter.numerator * 4) / score.meter.denominator,
}))

/** Lengths of a melody's bar in eighths, for three and four beats. */
const melodies = {
  3: [[2, 2, 2], [4, 2], [3, 1, 2], [2, 1, 1, 1, 1], [6], [1, 1, 2, 2]],
  4: [[2, 2, 2, 2], [4, 2, 2], [3, 1, 4], [2, 1, 1, 2, 2], [8], [1, 1, 1, 1, 2, 2], [2, 4, 2]],
} as const
const chords = [
  [0, 4, 7],
  [5, 9, 12],
  [7, 11, 14],
  [9, 12, 16],
  [2, 5, 9],
] as const

/** An invented piece for two hands: a melody over broken, struck or held chords. */
export function inventedForTwoHands(beats: 3 | 4, seed: number, bars = 24, pickupBeats = 0): FreeMusic {
  const random = randomSource(seed)
  const pick = <Element>(from: readonly Element[]): Element => from[Math.floor(random() * from.length)]!
  const notes: { onsetQuarters: number; endQuarters: number; key: number }[] = []
  const add = (onsetQuarters: number, lengthQuarters: number, key: number) =>
    notes.push({ onsetQuarters, endQuarters: onsetQuarters + lengthQuarters, key })
  const tonic = 48 + Math.floor(random() * 7)
  const left = pick(['broken', 'struck', 'held', 'bass and chords'] as const)
  for (let beat = 0; beat < pickupBeats; beat++) add(beat, 1, tonic + 19 + beat)
  let chord: readonly number[] = chords[0]
  for (let bar = 0; bar < bars; bar++) {
    const start = pickupBeats + bar * beats
    chord = bar === 0 || bar === bars - 1 ? chords[0] : random() < 0.8 ? pick(chords) : chord
    if (left === 'held') for (const step of chord) add(start, beats, tonic + step)
    else
      for (let beat = 0; beat < beats; beat++) {
        if (left === 'struck') for (const step of chord) add(start + beat, 1, tonic + step)
        if (left === 'broken')
          for (const half of [0, 1]) add(start + beat + half / 2, 0.5, tonic + chord[(beat * 2 + half) % 3]!)
        if (left === 'bass and chords')
          if (beat === 0) add(start, 1, tonic + chord[0]! - 12)
          else for (const step of chord) add(start + beat, 1, tonic + step)
      }
    let at = start
    for (const eighths of pick<readonly number[]>(melodies[beats])) {
      add(at, eighths / 2, tonic + 12 + pick(chord) + (random() < 0.3 ? 2 : 0))
      at += eighths / 2
    }
  }
  return {
    notes: notes.sort((a, b) => a.onsetQuarters - b.onsetQuarters || a.key - b.key),
    beatQuarters: 1,
    firstBarLineQuarters: pickupBeats,
    barQuarters: beats,
  }
}
