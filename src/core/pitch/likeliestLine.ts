import { keyOfFrequency, type ListenerSettings } from './listenerSettings'
import type { SoundFrame } from './soundFrames'

/** Nobody plays. */
export const silence = -1

/**
 * The likeliest way through all frames: which key sounds in each, or none. A key is kept unless much speaks for another, so that an octave
 * that is mistaken for a moment, vibrato and the noise of an attack change nothing; a slide passes through or jumps, whichever fits.
 *
 * It is the Viterbi path of a hidden Markov model with a state for each key and one for silence, after M. Mauch and others,
 * "Computer-aided Melody Note Transcription Using the Tony Software", TENOR 2015, with one state to a note, as attacks are found apart.
 *
 * @param attackOf how strongly something begins at a frame, from 0 to 1: notes change there more readily
 * @param shiftCents how far the whole sound lies above concert pitch
 * @returns for each frame its key, or `silence`
 */
export function likeliestLine(
  frames: readonly SoundFrame[],
  attackOf: (frame: number) => number,
  settings: ListenerSettings,
  shiftCents: number,
): Int16Array {
  const { lowKey, highKey, concertHz, gateDb } = settings
  const keys = highKey - lowKey + 1
  const quiet = keys
  const states = keys + 1
  let best = new Float64Array(states).fill(-Math.log(states))
  let next = new Float64Array(states)
  const from = new Uint8Array(frames.length * states)
  const likely = new Float64Array(states)
  for (const [index, frame] of frames.entries()) {
    emit(frame, likely)
    const attack = attackOf(index)
    const changeCost = costs.change * (1 - costs.attackHelp * attack)
    const beginCost = costs.begin * (1 - costs.attackHelp * attack)
    let top = 0
    for (let state = 1; state < keys; state++) if (best[state]! > best[top]!) top = state
    const back = from.subarray(index * states, (index + 1) * states)
    for (let state = 0; state < keys; state++) {
      const stay = best[state]!
      const change = best[top]! - changeCost
      const begin = best[quiet]! - beginCost
      const most = Math.max(stay, change, begin)
      back[state] = most === stay ? state : most === change ? top : quiet
      next[state] = most + likely[state]!
    }
    const rest = best[quiet]!
    const end = best[top]! - costs.end
    back[quiet] = rest >= end ? quiet : top
    next[quiet] = Math.max(rest, end) + likely[quiet]!
    ;[best, next] = [next, best]
  }
  const path = new Int16Array(frames.length)
  let state = 0
  for (let each = 1; each < states; each++) if (best[each]! > best[state]!) state = each
  for (let index = frames.length - 1; index >= 0; index--) {
    path[index] = state === quiet ? silence : lowKey + state
    state = from[index * states + state]!
  }
  return path

  function emit(frame: SoundFrame, into: Float64Array): void {
    into.fill(0)
    let voiced = 0
    if (frame.levelDb >= gateDb)
      for (const { frequencyHz, probability } of frame.candidates) {
        const place = keyOfFrequency(frequencyHz, concertHz) - shiftCents / 100 - lowKey
        const nearest = Math.round(place)
        voiced += probability
        for (let key = Math.max(0, nearest - 2); key <= Math.min(keys - 1, nearest + 2); key++)
          into[key]! += probability * Math.exp(-(((place - key) / spreadKeys) ** 2) / 2)
      }
    for (let key = 0; key < keys; key++) into[key] = Math.log(into[key]! + floor)
    into[quiet] = Math.log(Math.max(floor, (1 - voiced) * 0.7 + floor))
  }
}

/** How far a player is off the middle of a key, as a part of a semitone: vibrato and intonation of one who sings. */
const spreadKeys = 0.38
/** What is never thought impossible in a frame: less would let a single frame break a note. */
const floor = 0.02
/** In natural logarithms of likelihood. */
const costs = { change: 9, begin: 5, end: 5, attackHelp: 0.6 }
