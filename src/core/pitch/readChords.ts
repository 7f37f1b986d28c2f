import type { HeardNote } from './readLine'

/** Samples from frame to frame, at 22,050 Hz. */
export const chordFrameSamples = 256
/** Keys that are told apart, from A0 to C8. */
export const keysOfModel = 88
export const lowestKeyOfModel = 21

/** How likely each key sounds and begins in each frame, from 0 to 1, frame by frame. */
export interface HeardChords {
  readonly frames: number
  readonly sounding: Float32Array
  readonly beginning: Float32Array
}

/** A note that may have been played, with all that speaks for and against it. */
export interface PossibleNote {
  readonly key: number
  readonly from: number
  /** Behind the last frame in which it plainly sounds. */
  readonly to: number
  /** Behind the last in which it sounds at all. */
  readonly diedAt: number
  /** The most likely that it begins there. */
  readonly begins: number
  /** How likely it sounds, on average over its length. */
  readonly sounds: number
  /** How strongly others sound of which it may be a harmonic, and those that it may be heard under, as parts of its own strength. */
  readonly below: number
  readonly above: number
  /** How likely it begins and sounds against the likeliest that begins about then. */
  readonly beginsShare: number
  readonly soundsShare: number
}

/** Distances of the second to the eighth harmonic, in keys. */
const harmonics = [12, 19, 24, 28, 31, 34, 36]
const leastBeginning = 0.15
const leastSounding = 0.2
/** A note that dies away is held longer than it plainly sounds. */
const leastDying = 0.1
/** A note is over when it has not sounded for this many frames. */
const patience = 6

/** All notes that may be in what was heard, also those that are none. */
export function possibleNotes({ frames, sounding, beginning }: HeardChords): PossibleNote[] {
  const notes: Omit<PossibleNote, 'beginsShare' | 'soundsShare'>[] = []
  const at = (row: Float32Array, frame: number, index: number) =>
    frame >= 0 && frame < frames && index >= 0 && index < keysOfModel ? row[frame * keysOfModel + index]! : 0
  for (let index = 0; index < keysOfModel; index++) {
    const starts: number[] = []
    for (let frame = 0; frame < frames; frame++) {
      const here = at(beginning, frame, index)
      if (here < leastBeginning) continue
      let isTop = true
      for (let each = frame - 4; each <= frame + 4; each++)
        if (at(beginning, each, index) > here) isTop = false
      if (isTop && frame - (starts.at(-1) ?? -10) > 4) starts.push(frame)
    }
    for (const [place, from] of starts.entries()) {
      const limit = starts[place + 1] ?? frames
      let to = from + 1
      let quiet = 0
      let sum = 0
      let heard = 0
      for (let frame = from; frame < limit && quiet < patience; frame++) {
        const here = at(sounding, frame, index)
        if (here >= leastSounding) {
          quiet = 0
          to = frame + 1
          sum += here
          heard++
        } else if (frame > from + 2) quiet++
      }
      if (heard === 0) continue
      let diedAt = to
      while (diedAt < limit && at(sounding, diedAt, index) >= leastDying) diedAt++
      const strength = (other: number) => {
        let most = 0
        for (let frame = from - 1; frame <= from + 4; frame++)
          most = Math.max(most, at(sounding, frame, other))
        return most
      }
      const own = strength(index) + 0.05
      notes.push({
        key: index + lowestKeyOfModel,
        from,
        to,
        diedAt,
        begins: at(beginning, from, index),
        sounds: sum / heard,
        below: Math.max(...harmonics.map((interval) => strength(index - interval))) / own,
        above: Math.max(...harmonics.slice(0, 3).map((interval) => strength(index + interval))) / own,
      })
    }
  }
  return withShares(notes.sort((a, b) => a.from - b.from || a.key - b.key))
}

/** Notes that begin within this many frames of each other are held against each other. */
const togetherFrames = 5

function withShares(notes: readonly Omit<PossibleNote, 'beginsShare' | 'soundsShare'>[]): PossibleNote[] {
  let first = 0
  return notes.map((note) => {
    while (notes[first]!.from < note.from - togetherFrames) first++
    let begins = 0
    let sounds = 0
    for (let each = first; each < notes.length && notes[each]!.from <= note.from + togetherFrames; each++) {
      begins = Math.max(begins, notes[each]!.begins)
      sounds = Math.max(sounds, notes[each]!.sounds)
    }
    return { ...note, beginsShare: note.begins / begins, soundsShare: note.sounds / sounds }
  })
}

/**
 * How likely it was played, from 0 to 1: short, weak notes on a harmonic of a stronger one are what the network imagines most. Weights are a
 * logistic regression over chords, textures and lines of twelve instruments of a General MIDI bank (package fluid-soundfont-gm), dry and in
 * a noisy room; what is judged in tests are other instruments.
 */
export function noteProbability(note: PossibleNote): number {
  const bounded = (value: number) => Math.log(Math.min(6, Math.max(0.2, value)))
  const score =
    0.989 +
    8.899 * Math.log(note.begins) +
    0.834 * Math.log(note.sounds) +
    0.714 * Math.log(Math.min(60, note.to - note.from)) -
    0.61 * bounded(note.below) -
    0.302 * bounded(note.above) -
    2.449 * Math.log(note.beginsShare) +
    0.941 * Math.log(note.soundsShare)
  return 1 / (1 + Math.exp(-score))
}

/** A network's frame is felt this much later than its sound, in the middle of many notes. */
const feltLateMs = 7
const framesMs = (chordFrameSamples / 22_050) * 1000
/** What is less likely is not worth being offered. */
export const leastConfidence = 0.08

/**
 * The notes of what was heard, several at once, each with how sure it is. Whoever wants only what was played takes those from 0.5 up.
 */
export function readChords(heard: HeardChords): HeardNote[] {
  return possibleNotes(heard).flatMap((note) => {
    const confidence = noteProbability(note)
    if (confidence < leastConfidence) return []
    const onsetMs = Math.max(0, note.from * framesMs - feltLateMs)
    return [
      {
        onsetMs,
        durationMs: Math.max(framesMs, note.diedAt * framesMs - onsetMs),
        key: note.key,
        velocity: Math.max(1, Math.min(127, Math.round(20 + 110 * note.sounds))),
        confidence,
      },
    ]
  })
}
