import { Note } from 'tonal'
import type { Measure } from '../time/meterMap'
import type { Ticks } from '../time/units'
import type { KeyChange, KeySignature } from './scoreSettings'

/**
 * How likely each pitch class is to occur in a stretch of a major or minor key, from the tonic up.
 *
 * Source: D. Temperley, Music and Probability, 2007, ch. 6, from the Kostka–Payne corpus (values from memory).
 */
const majorOccurs = [0.748, 0.06, 0.488, 0.082, 0.67, 0.46, 0.096, 0.715, 0.104, 0.366, 0.057, 0.4]
const minorOccurs = [0.712, 0.084, 0.474, 0.618, 0.049, 0.46, 0.105, 0.747, 0.404, 0.067, 0.133, 0.33]

/** Fifths of the major key on each pitch class, C first; six sharps rather than six flats for F sharp. */
const fifthsOfMajorTonic = [0, -5, 2, -3, 4, -1, 6, 1, -4, 3, -2, 5]

/** Cost of another signature, as a negative logarithm: it has to last to be written. */
export const changeCost = 32
/** Cost of another mode under one signature: nothing of it is written. */
const modeCost = 6
/** Cost of a piece that does not end on its tonic, in the bass. */
const endCost = 2
/** A key that holds for fewer bars than this is no signature. */
export const fewestBarsOfKey = 8

/** A note, for what it says of the key. */
export interface KeyNote {
  readonly key: number
  readonly onsetTicks: Ticks
  readonly endTicks: Ticks
}

interface Candidate extends KeySignature {
  readonly tonic: number
}

const candidates: readonly Candidate[] = Array.from({ length: 24 }, (_, index) => {
  const tonic = index % 12
  const mode = index < 12 ? 'major' : 'minor'
  // A minor key has the signature of the major key three semitones above.
  return { tonic, mode, fifths: fifthsOfMajorTonic[mode === 'major' ? tonic : (tonic + 3) % 12]! }
})

/**
 * Finds the keys of a piece: the way through its bars under which the pitch classes of each bar are likeliest, with few changes.
 * A signature changes where the new one holds for `fewestBarsOfKey` bars at least.
 *
 * @param parts notes of each part, in order of onset
 * @param measures of the piece, in order
 * @returns the first from the beginning; C major for silence
 */
export function findKeys(parts: readonly (readonly KeyNote[])[], measures: readonly Measure[]): KeyChange[] {
  const occurs = occurrences(parts, measures)
  const costs = measures.map((_, bar) => candidates.map((candidate) => costOfBar(occurs[bar]!, candidate)))
  const last = lowestOfLast(parts)
  // A piece ends on its tonic.
  if (last !== null)
    costs[costs.length - 1] = costs
      .at(-1)!
      .map((cost, state) => cost + (candidates[state]!.tonic === last % 12 ? 0 : endCost))
  const path = cheapestPath(costs)
  const runs: { from: number; candidate: Candidate }[] = []
  for (const [bar, state] of path.entries()) {
    const candidate = candidates[state]!
    if (runs.at(-1)?.candidate.fifths !== candidate.fifths) runs.push({ from: bar, candidate })
  }
  const lasting = runs.filter(
    ({ from }, index) => (runs[index + 1]?.from ?? measures.length) - from >= fewestBarsOfKey,
  )
  const kept = lasting.length > 0 ? lasting : runs.slice(0, 1)
  const keys: KeyChange[] = []
  for (const { from, candidate } of kept) {
    const fifths = nearestSpelling(candidate.fifths, keys.at(-1)?.fifths)
    if (keys.at(-1)?.fifths === fifths) continue
    keys.push({
      tick: keys.length === 0 ? 0 : measures[from]!.startTicks,
      fifths,
      mode: candidate.mode,
    })
  }
  return keys.length > 0 ? keys : [{ tick: 0, fifths: 0, mode: 'major' }]
}

/** The lowest key that sounds at the very end. */
function lowestOfLast(parts: readonly (readonly KeyNote[])[]): number | null {
  let [endTicks, lowest] = [0, null as number | null]
  for (const notes of parts) for (const note of notes) endTicks = Math.max(endTicks, note.endTicks)
  for (const notes of parts)
    for (const note of notes)
      if (endTicks - note.endTicks < (note.endTicks - note.onsetTicks) / 2)
        lowest = Math.min(lowest ?? note.key, note.key)
  return lowest
}

/** Of six sharps and six flats, the one that lies on the side of the key before. */
function nearestSpelling(fifths: number, before: number | undefined): number {
  return fifths === 6 && before !== undefined && before < 0 ? -6 : fifths
}

/** Which pitch classes occur in each bar; an eighth of a bar at least, or beginning in it. */
function occurrences(
  parts: readonly (readonly KeyNote[])[],
  measures: readonly Measure[],
): (Uint8Array | null)[] {
  const occurs: (Uint8Array | null)[] = measures.map(() => null)
  for (const notes of parts) {
    let first = 0
    for (const { key, onsetTicks, endTicks } of notes) {
      while (
        first + 1 < measures.length &&
        measures[first]!.startTicks + measures[first]!.lengthTicks <= onsetTicks
      )
        first++
      for (let bar = first; bar < measures.length && measures[bar]!.startTicks < endTicks; bar++) {
        const { startTicks, lengthTicks } = measures[bar]!
        if (bar > first && endTicks - startTicks < lengthTicks / 8) break
        let own = occurs[bar]
        if (!own) {
          own = new Uint8Array(12)
          occurs[bar] = own
        }
        own[key % 12] = 1
      }
    }
  }
  return occurs
}

function costOfBar(occurs: Uint8Array | null, { tonic, mode }: Candidate): number {
  if (!occurs) return 0
  const profile = mode === 'major' ? majorOccurs : minorOccurs
  let cost = 0
  for (let step = 0; step < 12; step++) {
    const likely = profile[step]!
    cost -= Math.log(occurs[(tonic + step) % 12] ? likely : 1 - likely)
  }
  return cost
}

/** The state of each bar on the cheapest way through all of them. */
function cheapestPath(costs: readonly (readonly number[])[]): number[] {
  if (costs.length === 0) return []
  let sums = candidates.map(() => 0)
  const back: Uint8Array[] = []
  for (const own of costs) {
    const from = new Uint8Array(candidates.length)
    const cheapest = sums.indexOf(Math.min(...sums))
    sums = candidates.map((candidate, state) => {
      let [best, before] = [sums[state]!, state]
      const other =
        sums[cheapest]! + (candidates[cheapest]!.fifths === candidate.fifths ? modeCost : changeCost)
      if (other < best) [best, before] = [other, cheapest]
      const relative = candidates.findIndex(
        ({ fifths, mode }) => fifths === candidate.fifths && mode !== candidate.mode,
      )
      if (sums[relative]! + modeCost < best) [best, before] = [sums[relative]! + modeCost, relative]
      from[state] = before
      return best + own[state]!
    })
    back.push(from)
  }
  const path = new Array<number>(costs.length)
  let state = sums.indexOf(Math.min(...sums))
  for (let bar = costs.length - 1; bar >= 0; bar--) {
    path[bar] = state
    state = back[bar]![state]!
  }
  return path
}

/** `keySignatureName({ fifths: -1, mode: 'minor' })` is "D minor". */
export function keySignatureName({ fifths, mode }: KeySignature): string {
  const tonic = Note.transposeFifths(mode === 'major' ? 'C' : 'A', fifths)
  return `${tonic.replaceAll('#', '♯').replaceAll('b', '♭')} ${mode}`
}
