import { beatUnitTicks, type Measure } from '../../time/meterMap'
import type { Ticks } from '../../time/units'
import { keyAt } from '../score'
import type { KeyChange } from '../scoreSettings'
import { chordWeights as weights } from './chordWeights'

/** A note as it sounds, where it is written. */
export interface SoundingNote {
  readonly key: number
  readonly onsetTicks: Ticks
  readonly endTicks: Ticks
}

/** A chord from a place on. */
export interface FoundChord {
  readonly tick: Ticks
  readonly symbol: string
}

/** Kinds of chords that are found, by the steps of their notes over the root in semitones, the simplest first. */
const kinds: readonly {
  readonly suffix: string
  readonly steps: readonly number[]
  readonly cost: number
}[] = [
  { suffix: '', steps: [0, 4, 7], cost: 0 },
  { suffix: 'm', steps: [0, 3, 7], cost: 0 },
  { suffix: '7', steps: [0, 4, 7, 10], cost: weights.fourNotes },
  { suffix: 'm7', steps: [0, 3, 7, 10], cost: weights.fourNotes },
  { suffix: 'maj7', steps: [0, 4, 7, 11], cost: weights.fourNotes },
  { suffix: 'dim', steps: [0, 3, 6], cost: weights.rare },
  { suffix: 'm7b5', steps: [0, 3, 6, 10], cost: weights.fourNotes + weights.rare },
  { suffix: 'dim7', steps: [0, 3, 6, 9], cost: weights.fourNotes + weights.rare },
  { suffix: 'sus4', steps: [0, 5, 7], cost: weights.rare },
  { suffix: 'aug', steps: [0, 4, 8], cost: weights.rare * 2 },
]

interface Beat {
  readonly startTicks: Ticks
  readonly isBarStart: boolean
  readonly isHalfBar: boolean
  /** Share of the sound of each pitch class; all 0 in silence. */
  readonly shares: readonly number[]
  /** Pitch class of what sounds lowest; −1 in silence. */
  readonly bass: number
}

/**
 * Finds the chords of a piece from all that sounds: beat by beat each chord is weighed by the share of the sound that belongs to
 * it, and the way through the beats that costs least is taken, changes of chord costing more where they come less often (D. Temperley,
 * The Cognition of Basic Musical Structures, 2001, ch. 6: compatibility, and a strong beat for a change).
 *
 * @param notes of all pitched parts, in any order
 * @param keys as they sound: roots are named in them
 * @returns in order, each where it changes; nothing where nothing sounds
 */
export function findChords(
  notes: readonly SoundingNote[],
  measures: readonly Measure[],
  keys: readonly KeyChange[],
): FoundChord[] {
  const beats = beatsOf(notes, measures)
  const path = bestPath(beats)
  const found: FoundChord[] = []
  let last = -1
  for (const [index, beat] of beats.entries()) {
    const state = path[index]!
    if (state < 0 || state === last) continue
    last = state
    const root = Math.floor(state / kinds.length)
    const { suffix, steps } = kinds[state % kinds.length]!
    const name = (pitchClass: number) => nameIn(pitchClass, keyAt(keys, beat.startTicks).fifths)
    // Its bass is told where the chord begins: a lower voice that moves on changes no symbol.
    const bassStep = (beat.bass - root + 12) % 12
    const bass = bassStep !== 0 && steps.includes(bassStep) ? `/${name(beat.bass)}` : ''
    found.push({ tick: beat.startTicks, symbol: `${name(root)}${suffix}${bass}` })
  }
  return found
}

function beatsOf(notes: readonly SoundingNote[], measures: readonly Measure[]): Beat[] {
  const frames = measures.flatMap((measure) => {
    const unit = Math.min(beatUnitTicks(measure), measure.lengthTicks)
    const count = Math.max(1, Math.round(measure.lengthTicks / unit))
    return Array.from({ length: count }, (_, beat) => ({
      startTicks: measure.startTicks + beat * unit,
      isBarStart: beat === 0,
      isHalfBar: beat * 2 === count,
    }))
  })
  const sums = frames.map(() => new Float64Array(12))
  const lowest = frames.map(() => Number.POSITIVE_INFINITY)
  const last = measures.at(-1)
  const endTicks = last ? last.startTicks + last.lengthTicks : 0
  const ends = frames.map((_, index) => frames[index + 1]?.startTicks ?? endTicks)
  let first = 0
  for (const { key, onsetTicks, endTicks: end } of [...notes].sort((a, b) => a.onsetTicks - b.onsetTicks)) {
    while (first < frames.length && ends[first]! <= onsetTicks) first++
    for (let beat = first; beat < frames.length && frames[beat]!.startTicks < end; beat++) {
      const shared = Math.min(end, ends[beat]!) - Math.max(onsetTicks, frames[beat]!.startTicks)
      if (shared <= 0) continue
      sums[beat]![key % 12]! += shared
      lowest[beat] = Math.min(lowest[beat]!, key)
    }
  }
  return frames.map((frame, index) => {
    const total = sums[index]!.reduce((sum, each) => sum + each, 0)
    return {
      ...frame,
      shares: [...sums[index]!].map((each) => (total > 0 ? each / total : 0)),
      bass: Number.isFinite(lowest[index]!) ? lowest[index]! % 12 : -1,
    }
  })
}

/** The chord of each beat as root times kinds plus kind; −1 where there is silence. */
function bestPath(beats: readonly Beat[]): number[] {
  const states = 12 * kinds.length
  let costs = new Float64Array(states)
  const from: Int16Array[] = []
  for (const [index, beat] of beats.entries()) {
    const next = new Float64Array(states)
    const back = new Int16Array(states)
    let best = 0
    for (let state = 1; state < states; state++) if (costs[state]! < costs[best]!) best = state
    const change =
      index === 0
        ? 0
        : beat.isBarStart
          ? weights.changeAtBar
          : beat.isHalfBar
            ? weights.changeAtHalf
            : weights.change
    for (let state = 0; state < states; state++) {
      const stays = costs[state]!
      const changes = costs[best]! + change
      back[state] = stays <= changes ? state : best
      next[state] = Math.min(stays, changes) + beatCost(beat, state)
    }
    costs = next
    from.push(back)
  }
  const path = new Array<number>(beats.length).fill(-1)
  let state = 0
  for (let each = 1; each < states; each++) if (costs[each]! < costs[state]!) state = each
  for (let index = beats.length - 1; index >= 0; index--) {
    path[index] = beats[index]!.bass < 0 ? -1 : state
    state = from[index]![state]!
  }
  return path
}

function beatCost({ shares, bass }: Beat, state: number): number {
  if (bass < 0) return 0
  const root = Math.floor(state / kinds.length)
  const { steps, cost } = kinds[state % kinds.length]!
  let outside = 1
  let missing = 0
  for (const [place, step] of steps.entries()) {
    const share = shares[(root + step) % 12]!
    outside -= share
    // The fifth is often left out.
    if (share === 0) missing += place === 2 ? weights.missingFifth : weights.missing
  }
  return outside * weights.outside + missing + cost + (bass === root ? 0 : weights.notInBass)
}

const sharpNames = ['C', 'C#', 'D', 'D#', 'E', 'F', 'F#', 'G', 'G#', 'A', 'A#', 'B']
const flatNames = ['C', 'Db', 'D', 'Eb', 'E', 'F', 'Gb', 'G', 'Ab', 'A', 'Bb', 'B']

/** The name of a pitch class that is nearer to the key on the line of fifths. */
function nameIn(pitchClass: number, fifths: number): string {
  const place = (((pitchClass * 7) % 12) + 12) % 12
  // Two places are a diatonic step of the key's own middle.
  const sharp = place
  const flat = place - 12
  const middle = fifths + 2
  const isFlat = Math.abs(flat - middle) < Math.abs(sharp - middle)
  return isFlat && place > 5 ? flatNames[pitchClass]! : sharpNames[pitchClass]!
}
