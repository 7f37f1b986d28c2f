import type { Ticks } from '../time/units'
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
  const all = parts
    .flatMap((notes, part) => notes.map((note, index) => ({ ...note, part, index })))
    .sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key)
  const count = all.length
  const middles = middlesOfKeys(all, keys)
  const follows = stepsInParts(all, parts.length)
  const names = Float64Array.from(all, ({ key }, index) => nearestName(key % 12, middles[index]!))
  const lengths = Float64Array.from(all, ({ onsetTicks, endTicks }) =>
    Math.min(4, Math.max(0.25, (endTicks - onsetTicks) / 10_080)),
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
      const best = bestName(all[index]!.key, middles[index]!, around, (name) => {
        let cost = 0
        const { before, after } = follows[index]!
        if (after >= 0) cost += stepCost(name, names[after]!, weights.leading)
        if (before >= 0) cost += stepCost(names[before]!, name, weights.coming)
        return cost
      })
      if (best !== names[index]) {
        names[index] = best
        changed = true
      }
    }
    if (!changed) break
  }
  oneNameAtATime(all, names)
  const spelled = parts.map((notes) => new Array<Fifths>(notes.length).fill(0))
  for (const [place, { part, index }] of all.entries()) spelled[part]![index] = names[place]!
  return spelled
}

/** The written pitch of a key under a name, both moved as the part is written; a name with more than two signs is changed. */
export function pitchOf(key: number, name: Fifths): SpelledPitch {
  const fifths = name > highestFifths ? name - 12 : name < lowestFifths ? name + 12 : name
  const letter = letters[mod(fifths + 1, 7)]!
  const alter = Math.floor((fifths + 1) / 7)
  return { step: letter, alter, octave: Math.floor((key - alter) / 12) - 1 }
}

/** By the line of fifths, from F on. */
const letters = ['F', 'C', 'G', 'D', 'A', 'E', 'B'] as const

/** The middle of the names of a key: between its second and sixth degree; minor keys raise two of theirs. */
function middleOf({ fifths, mode }: KeySignature): number {
  return fifths + (mode === 'minor' ? weights.minorMiddle : weights.majorMiddle)
}

function middlesOfKeys(notes: readonly UnspelledNote[], keys: readonly KeyChange[]): Float64Array {
  let next = 0
  let middle = middleOf(keys[0] ?? { fifths: 0, mode: 'major' })
  return Float64Array.from(notes, ({ onsetTicks }) => {
    while (next < keys.length && keys[next]!.tick <= onsetTicks) middle = middleOf(keys[next++]!)
    return middle
  })
}

/** The place of a pitch class that lies nearest to another one. */
function nearestName(pitchClass: number, middle: number): Fifths {
  const any = mod(pitchClass * 7, 12)
  const name = any + 12 * Math.round((middle - any) / 12)
  return name > highestFifths ? name - 12 : name < lowestFifths ? name + 12 : name
}

function bestName(key: number, middle: number, around: number, melodic: (name: Fifths) => number): Fifths {
  const near = nearestName(key % 12, middle)
  let best = { name: near, cost: Number.POSITIVE_INFINITY }
  for (const name of [near, near - 12, near + 12]) {
    if (name < lowestFifths || name > highestFifths) continue
    const outside = Math.max(0, Math.abs(name - middle) - weights.inside)
    const isDouble = name > 12 || name < -8
    const cost =
      weights.key * outside +
      weights.around * Math.abs(name - around) +
      (isDouble ? weights.double : 0) +
      melodic(name)
    if (cost < best.cost) best = { name, cost }
  }
  return best.name
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
  notes: readonly (UnspelledNote & { readonly part: number })[],
  partCount: number,
): { before: number; after: number }[] {
  const steps = notes.map(() => ({ before: -1, after: -1 }))
  /** The last strokes of each part: notes with the same onset, latest last. */
  const recent: number[][][] = Array.from({ length: partCount }, () => [])
  for (const [index, { part, onsetTicks, key }] of notes.entries()) {
    const strokes = recent[part]!
    const last = strokes.at(-1)
    if (!last || notes[last[0]!]!.onsetTicks !== onsetTicks) strokes.push([index])
    else last.push(index)
    if (strokes.length > weights.strokesBack + 1) strokes.shift()
    for (let back = strokes.length - 2; back >= 0; back--) {
      const near = strokes[back]!.filter((candidate) => {
        const distance = Math.abs(notes[candidate]!.key - key)
        return distance > 0 && distance <= 2 && steps[candidate]!.after < 0
      }).sort((a, b) => Math.abs(notes[a]!.key - key) - Math.abs(notes[b]!.key - key))[0]
      if (near === undefined || onsetTicks - notes[near]!.endTicks > weights.longestGapTicks) continue
      steps[near]!.after = index
      if (steps[index]!.before < 0) steps[index]!.before = near
      break
    }
  }
  return steps
}

/** Of notes of one key that sound together, the longest names the others. */
function oneNameAtATime(notes: readonly UnspelledNote[], names: Float64Array): void {
  const sounding = new Map<number, number>()
  for (const [index, note] of notes.entries()) {
    const other = sounding.get(note.key)
    if (other !== undefined && notes[other]!.endTicks > note.onsetTicks) {
      const isLonger = note.endTicks - note.onsetTicks > notes[other]!.endTicks - notes[other]!.onsetTicks
      if (isLonger && notes[other]!.onsetTicks === note.onsetTicks) names[other] = names[index]!
      else names[index] = names[other]!
      if (notes[other]!.endTicks >= note.endTicks) continue
    }
    sounding.set(note.key, index)
  }
}

function mod(value: number, by: number): number {
  return ((value % by) + by) % by
}
