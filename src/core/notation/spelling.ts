import type { SpelledPitch } from './score'
import type { KeySignature } from './scoreSettings'

/** Steps above the tonic at which each chromatic interval of a harmonic chromatic scale is written. */
const stepsOfInterval = [0, 1, 1, 2, 2, 3, 3, 4, 5, 5, 6, 6]
const letters = ['C', 'D', 'E', 'F', 'G', 'A', 'B'] as const
const pitchClassOfLetter = [0, 2, 4, 5, 7, 9, 11]
/** Place of each letter on the line of fifths, C at 0. */
const fifthsOfLetter = [0, 2, 4, -1, 1, 3, 5]

const notesBefore = 10
const notesAfter = 42

/**
 * Spells notes by stage 1 of ps13: around each note, every pitch class is taken as a possible tonic, weighed by how
 * often it sounds; the letter with the greatest weight is the note's. The result is fixed up to an enharmonic change
 * of the whole, which the key signature decides.
 *
 * Source: D. Meredith, The ps13 pitch spelling algorithm, Journal of New Music Research 35(2), 2006, with its best
 * window of 10 notes before and 42 after.
 *
 * @param keys MIDI key numbers in order of onset
 */
export function spellPitches(keys: readonly number[], signature: KeySignature): SpelledPitch[] {
  if (keys.length === 0) return []
  const classes = keys.map((key) => key % 12)
  const firstLetter = letterInKey(classes[0]!, signature)
  // The letter that each note would have with each tonic, relative to the first note's letter.
  const tonicLetters = Array.from({ length: 12 }, (_, tonic) =>
    mod(firstLetter - stepsOfInterval[mod(classes[0]! - tonic, 12)]!, 7),
  )
  const counts = new Array<number>(12).fill(0)
  for (let i = 0; i < Math.min(notesAfter, classes.length); i++) counts[classes[i]!]!++
  const spelledLetters = classes.map((pitchClass, index) => {
    const entering = index + notesAfter
    if (index > 0 && entering - 1 < classes.length) counts[classes[entering - 1]!]!++
    const leaving = index - notesBefore - 1
    if (leaving >= 0) counts[classes[leaving]!]!--
    const strength = new Array<number>(7).fill(0)
    for (let tonic = 0; tonic < 12; tonic++)
      strength[mod(tonicLetters[tonic]! + stepsOfInterval[mod(pitchClass - tonic, 12)]!, 7)]! +=
        counts[tonic]!
    return strength.indexOf(Math.max(...strength))
  })
  return keys.map((key, index) => pitchWithLetter(key, spelledLetters[index]!, signature))
}

function pitchWithLetter(key: number, letter: number, signature: KeySignature): SpelledPitch {
  const pitchClass = key % 12
  let alter = mod(pitchClass - pitchClassOfLetter[letter]! + 6, 12) - 6
  let chosen = letter
  if (Math.abs(alter) > 1) {
    // Double signs are for music that means them; a performance is read more easily without.
    chosen = letterInKey(pitchClass, signature)
    alter = mod(pitchClass - pitchClassOfLetter[chosen]! + 6, 12) - 6
  }
  return { step: letters[chosen]!, alter, octave: Math.floor((key - alter) / 12) - 1 }
}

/** The letter for which the pitch class lies nearest to the middle of the key on the line of fifths. */
function letterInKey(pitchClass: number, signature: KeySignature): number {
  // A minor key raises its sixth and seventh, so its middle lies further to the sharp side.
  const middle = signature.fifths + (signature.mode === 'minor' ? 3.5 : 2)
  let best = { letter: 0, distance: Number.POSITIVE_INFINITY }
  for (let letter = 0; letter < 7; letter++) {
    const alter = mod(pitchClass - pitchClassOfLetter[letter]! + 6, 12) - 6
    if (Math.abs(alter) > 1) continue
    const distance = Math.abs(fifthsOfLetter[letter]! + 7 * alter - middle)
    if (distance < best.distance) best = { letter, distance }
  }
  return best.letter
}

function mod(value: number, by: number): number {
  return ((value % by) + by) % by
}
