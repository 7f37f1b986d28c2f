import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import type { SpelledPitch } from './score'
import type { KeyChange, KeySignature } from './scoreSettings'
import { spellingWeights as weights } from './spellingWeights'

/** A note that is to get a name, where it is written. */
export interface UnspelledNote {
  /** MIDI key, as it sounds. */
  readonly key: number
  readonly onsetTicks: Ticks
  readonly endTicks: Ticks
}

/** Place of a name on the line of fifths: F −1, C 0, G 1, F♯ 6, B♭ −2. */
export type Fifths = number

/** Names from F double flat to B double sharp. */
const [lowestFifths, highestFifths] = [-15, 19]

/**
 * Names the notes of a piece, all parts together, so that one pitch has one name at one moment.
 *
 * Each pitch has two or three names within reach of the key. A name is good when it lies near to the names around it and to the key
 * on the line of fifths (H. C. Longuet-Higgins; D. Temperley, The Cognition of Basic Musical Structures, 2001, ch. 5), and when
 * the note moves on by a step of the scale instead of an altered unison: a note outside the key leads to the next letter
 * (D. Meredith, The ps13 pitch spelling algorithm, 2006, stage 2, mends the same). Names are chosen again and again until they
 * stay as they are.
 *
 * @param parts the notes of each part, in order of onset
 * @param keys in order, the first at the beginning
 * @returns for each part the places of its notes' names
 */
export function spellParts(
  parts: readonly (readonly UnspelledNote[])[],
  keys: readonly KeyChange[],
): Fifths[][] {
  const all = inOrder(parts)
  const count = all.length
  const middles = middlesOfKeys(all, keys)
  const { before, after } = stepsInParts(all, parts.length)
  const names = Float64Array.from(all, ({ note }, index) => nearestName(note.key % 12, middles[index]!))
  const lengths = Float64Array.from(all, ({ note }) =>
    Math.min(4, Math.max(0.25, (note.endTicks - note.onsetTicks) / TICKS_PER_QUARTER)),
  )
  const sums = new Float64Array(count + 1)
  const masses = new Float64Array(count + 1)
  for (let index = 0; index < count; index++) masses[index + 1] = masses[index]! + lengths[index]!
  for (let round = 0; round < weights.rounds; round++) {
    for (let index = 0; index < count; index++)
      sums[index + 1] = sums[index]! + names[index]! * lengths[index]!
    let changed = false
    for (let index = 0; index < count; index++) {
      const from = Math.max(0, index - weights.before)
      const to = Math.min(count, index + weights.after + 1)
      const own = lengths[index]!
      const mass = masses[to]! - masses[from]! - own
      const around = mass <= 0 ? middles[index]! : (sums[to]! - sums[from]! - names[index]! * own) / mass
      const [comesFrom, goesTo] = [before[index]!, after[index]!]
      const best = bestName(
        nearestName(all[index]!.note.key % 12, middles[index]!),
        middles[index]!,
        around,
        comesFrom < 0 ? null : names[comesFrom]!,
        goesTo < 0 ? null : names[goesTo]!,
      )
      if (best !== names[index]) {
        names[index] = best
        changed = true
      }
    }
    if (!changed) break
  }
  oneNameAtATime(all, names)
  const spelled = parts.map((notes) => new Array<Fifths>(notes.length).fill(0))
  for (let place = 0; place < count; place++) spelled[all[place]!.part]![all[place]!.index] = names[place]!
  return spelled
}

/** A note with where it is in its part. */
interface PlacedNote {
  readonly note: UnspelledNote
  readonly part: number
  readonly index: number
}

function inOrder(parts: readonly (readonly UnspelledNote[])[]): PlacedNote[] {
  return parts
    .flatMap((notes, part) => notes.map((note, index): PlacedNote => ({ note, part, index })))
    .sort((a, b) => a.note.onsetTicks - b.note.onsetTicks || a.note.key - b.note.key)
}

/** The written pitch of a key under a name, both moved as the part is written; a name with more than two signs is changed. */
export function pitchOf(key: number, name: Fifths): SpelledPitch {
  const fifths = name > highestFifths ? name - 12 : name < lowestFifths ? name + 12 : name
  const letter = letters[mod(fifths + 1, 7)]!
  const alter = Math.floor((fifths + 1) / 7)
  return { step: letter, alter, octave: Math.floor((key - alter) / 12) - 1 }
}

/** By the line of fifths, from F on. */
export const letters = ['F', 'C', 'G', 'D', 'A', 'E', 'B'] as const

/** The middle of the names of a key: between its second and sixth degree; minor keys raise two of theirs. */
function middleOf({ fifths, mode }: KeySignature): number {
  return fifths + (mode === 'minor' ? weights.minorMiddle : weights.majorMiddle)
}

function middlesOfKeys(notes: readonly PlacedNote[], keys: readonly KeyChange[]): Float64Array {
  let next = 0
  let middle = middleOf(keys[0] ?? { fifths: 0, mode: 'major' })
  return Float64Array.from(notes, ({ note }) => {
    while (next < keys.length && keys[next]!.tick <= note.onsetTicks) middle = middleOf(keys[next++]!)
    return middle
  })
}

/** The place of a pitch class that lies nearest to another one. */
function nearestName(pitchClass: number, middle: number): Fifths {
  const any = mod(pitchClass * 7, 12)
  const name = any + 12 * Math.round((middle - any) / 12)
  return name > highestFifths ? name - 12 : name < lowestFifths ? name + 12 : name
}

/** Of the names of a pitch the cheapest, between the notes it comes from and goes to. */
function bestName(
  near: Fifths,
  middle: number,
  around: number,
  comesFrom: Fifths | null,
  goesTo: Fifths | null,
): Fifths {
  let [best, bestCost] = [near, Number.POSITIVE_INFINITY]
  for (let name = near - 12; name <= near + 12; name += 12) {
    if (name < lowestFifths || name > highestFifths) continue
    let cost =
      weights.key * Math.max(0, Math.abs(name - middle) - weights.inside) +
      weights.around * Math.abs(name - around)
    if (name > 12 || name < -8) cost += weights.double
    if (goesTo !== null) cost += stepCost(name, goesTo, weights.leading)
    if (comesFrom !== null) cost += stepCost(comesFrom, name, weights.coming)
    // Of two that are as good, the one nearer to the key.
    if (cost < bestCost || (cost === bestCost && name === near)) [best, bestCost] = [name, cost]
  }
  return best
}

/** What a step from one name to another costs: a semitone is a minor second rather than an altered unison. */
function stepCost(from: Fifths, to: Fifths, weight: number): number {
  const distance = Math.abs(to - from)
  // 2 and 5: a second; 7: the same letter; 10 and 12: no step at all.
  if (distance === 7) return weight
  if (distance > 7) return weight * weights.noStep
  return 0
}

/** Of each note, the one it comes from and the one it goes to by a step of one or two semitones in its part; −1 where there is none. */
function stepsInParts(
  notes: readonly PlacedNote[],
  partCount: number,
): { readonly before: Int32Array; readonly after: Int32Array } {
  const before = new Int32Array(notes.length).fill(-1)
  const after = new Int32Array(notes.length).fill(-1)
  /** The last strokes of each part: notes with the same onset, latest last. */
  const recent: number[][][] = Array.from({ length: partCount }, () => [])
  for (let index = 0; index < notes.length; index++) {
    const { part, note } = notes[index]!
    const strokes = recent[part]!
    const last = strokes.at(-1)
    if (!last || notes[last[0]!]!.note.onsetTicks !== note.onsetTicks) {
      strokes.push([index])
      if (strokes.length > weights.strokesBack + 1) strokes.shift()
    } else last.push(index)
    for (let back = strokes.length - 2; back >= 0; back--) {
      let [near, nearest] = [-1, 3]
      for (const candidate of strokes[back]!) {
        const distance = Math.abs(notes[candidate]!.note.key - note.key)
        if (distance > 0 && distance < nearest && after[candidate]! < 0)
          [near, nearest] = [candidate, distance]
      }
      if (near < 0 || note.onsetTicks - notes[near]!.note.endTicks > weights.longestGapTicks) continue
      after[near] = index
      if (before[index]! < 0) before[index] = near
      break
    }
  }
  return { before, after }
}

/** Of notes of one key that sound together, the longest names the others. */
function oneNameAtATime(notes: readonly PlacedNote[], names: Float64Array): void {
  const sounding = new Int32Array(128).fill(-1)
  for (let index = 0; index < notes.length; index++) {
    const { note } = notes[index]!
    const place = sounding[note.key]!
    if (place >= 0 && notes[place]!.note.endTicks > note.onsetTicks) {
      const other = notes[place]!.note
      const isLonger = note.endTicks - note.onsetTicks > other.endTicks - other.onsetTicks
      if (isLonger && other.onsetTicks === note.onsetTicks) names[place] = names[index]!
      else names[index] = names[place]!
      if (other.endTicks >= note.endTicks) continue
    }
    sounding[note.key] = index
  }
}

function mod(value: number, by: number): number {
  return ((value % by) + by) % by
}
