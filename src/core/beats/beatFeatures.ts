import { firstIndex } from '../time/firstIndex'
import type { Milliseconds } from '../time/units'
import type { TimedNote } from './strokes'

/** What is told of each beat, in this order. */
export const beatFeatureNames = [
  'notes that begin',
  'longest of them',
  'deepest of them',
  'loudest of them',
  'change of harmony from the beat before',
  'change of harmony from the two beats before',
  'change of bass',
  'anything begins',
  'held over',
  'notes in the beat',
] as const

/**
 * What each beat is like, each measure with mean 0 and standard deviation 1 over the piece.
 *
 * @param notes in order of onset
 * @param beatsMs in order, two at least
 * @returns for each beat its measures, as in `beatFeatureNames`
 */
export function beatFeatures(notes: readonly TimedNote[], beatsMs: readonly Milliseconds[]): number[][] {
  const count = beatsMs.length
  const lengthMs = (beat: number) =>
    beat + 1 < count ? beatsMs[beat + 1]! - beatsMs[beat]! : beatsMs[beat]! - beatsMs[beat - 1]!
  const onBeat: TimedNote[][] = Array.from({ length: count }, () => [])
  const inBeat = new Array<number>(count).fill(0)
  const heldOver = new Array<number>(count).fill(0)
  const sounding = new Array<number>(count).fill(0)
  const harmony = Array.from({ length: count }, () => new Float64Array(12))
  const lowestOf = new Array<number>(count).fill(Number.POSITIVE_INFINITY)
  for (const note of notes) {
    // A little early is still on the beat.
    let beat = firstIndex(count, (index) => beatsMs[index]! > note.onsetMs + 0.15 * lengthMs(index)) - 1
    if (beat < 0) continue
    inBeat[beat]!++
    if (Math.abs(note.onsetMs - beatsMs[beat]!) < 0.18 * lengthMs(beat)) onBeat[beat]!.push(note)
    for (const first = beat; beat < count && beatsMs[beat]! < note.endMs; beat++) {
      const length = lengthMs(beat)
      const from = beat === first ? note.onsetMs : beatsMs[beat]!
      const share = Math.min(1, (Math.min(note.endMs, beatsMs[beat]! + length) - from) / length)
      if (share < 0.1 && beat > first) break
      if (!note.isUnpitched) harmony[beat]![note.key % 12]! += Math.max(0.1, share)
      lowestOf[beat] = Math.min(lowestOf[beat]!, note.key)
      sounding[beat]!++
      if (beat > first && share > 0.25) heldOver[beat]!++
    }
  }
  const raw = beatsMs.map((_, beat) => {
    const struck = onBeat[beat]!
    const before = beat > 0 ? harmony[beat - 1]! : harmony[beat]!
    const own = harmony[beat]!
    const next = beat + 1 < count ? harmony[beat + 1]! : own
    const earlier = beat > 1 ? harmony[beat - 2]! : before
    const low = lowestOf[beat]!
    return [
      Math.log2(1 + struck.length),
      Math.log2(1 + Math.min(4, Math.max(0, ...struck.map((n) => (n.endMs - n.onsetMs) / lengthMs(beat))))),
      struck.length === 0 ? -80 : -Math.min(...struck.map(({ key }) => key)),
      struck.length === 0 ? 40 : Math.max(...struck.map(({ velocity }) => velocity)),
      1 - cosine(own, before),
      1 - cosine(sum(own, next), sum(before, earlier)),
      beat > 0 && Number.isFinite(low) && low % 12 !== lowestOf[beat - 1]! % 12 ? 1 : 0,
      struck.length > 0 ? 1 : 0,
      heldOver[beat]! / Math.max(1, sounding[beat]!),
      Math.log2(1 + inBeat[beat]!),
    ]
  })
  return standardised(raw)
}

function standardised(rows: readonly (readonly number[])[]): number[][] {
  const columns = beatFeatureNames.map((_, column) => {
    const mean = rows.reduce((total, row) => total + row[column]!, 0) / rows.length
    const variance = rows.reduce((total, row) => total + (row[column]! - mean) ** 2, 0) / rows.length
    return { mean, deviation: Math.sqrt(variance) }
  })
  return rows.map((row) =>
    row.map((value, column) => {
      const { mean, deviation } = columns[column]!
      return deviation < 1e-9 ? 0 : Math.max(-3, Math.min(3, (value - mean) / deviation))
    }),
  )
}

function sum(a: Float64Array, b: Float64Array): Float64Array {
  return a.map((value, index) => value + b[index]!)
}

function cosine(a: Float64Array, b: Float64Array): number {
  let [product, squaresA, squaresB] = [0, 0, 0]
  for (let index = 0; index < 12; index++) {
    product += a[index]! * b[index]!
    squaresA += a[index]! ** 2
    squaresB += b[index]! ** 2
  }
  return squaresA === 0 || squaresB === 0 ? 1 : product / Math.sqrt(squaresA * squaresB)
}
