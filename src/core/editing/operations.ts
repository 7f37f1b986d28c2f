import { removeDoubles, removeGlitches, removeNotes } from './cleaning'
import { fixedLength, gate, joinNotes, legato, splitHere, splitNotes } from './lengths'
import { transpose, transposeInScale, upsideDown, upsideDownInScale } from './pitches'
import { quantise } from './quantising'
import { backwards, humanise, layTiming, repeat, shift, stretchTime } from './timing'
import { evenVelocity, rampVelocity, scaleVelocity, setVelocity, varyVelocity } from './velocities'

/** Everything that can be done to notes, in the order it is offered. */
export const operations = {
  quantise,
  shift,
  humanise,
  layTiming,
  stretchTime,
  backwards,
  repeat,
  legato,
  fixedLength,
  gate,
  splitNotes,
  splitHere,
  joinNotes,
  transpose,
  transposeInScale,
  upsideDown,
  upsideDownInScale,
  setVelocity,
  scaleVelocity,
  rampVelocity,
  evenVelocity,
  varyVelocity,
  removeDoubles,
  removeGlitches,
  removeNotes,
} as const

export type OperationName = keyof typeof operations
export const operationNames = Object.keys(operations) as OperationName[]
