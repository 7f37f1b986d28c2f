import { Note } from 'tonal'
import type { KeySignature } from './scoreSettings'

/** Key profiles of C. Krumhansl, Cognitive Foundations of Musical Pitch, 1990, p. 30 (with E. Kessler), from the tonic up. */
const majorProfile = [6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88]
const minorProfile = [6.33, 2.68, 3.52, 5.38, 2.6, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17]

/** Fifths of the major key on each pitch class, C first; six sharps rather than six flats for F sharp. */
const fifthsOfMajorTonic = [0, -5, 2, -3, 4, -1, 6, 1, -4, 3, -2, 5]

/**
 * Finds the key whose profile correlates best with how long each pitch class sounds (Krumhansl and Schmuckler).
 *
 * @param durations 12 sums of durations, C first, in any unit
 * @returns the key and the correlation, −1 to 1; C major and 0 for silence
 */
export function findKey(durations: readonly number[]): { key: KeySignature; correlation: number } {
  let best: { key: KeySignature; correlation: number } = { key: { fifths: 0, mode: 'major' }, correlation: 0 }
  for (let tonic = 0; tonic < 12; tonic++) {
    const rotated = durations.map((_, step) => durations[(step + tonic) % 12]!)
    for (const mode of ['major', 'minor'] as const) {
      const correlation = pearson(rotated, mode === 'major' ? majorProfile : minorProfile)
      if (correlation <= best.correlation) continue
      // A minor key has the signature of the major key three semitones above.
      const fifths = fifthsOfMajorTonic[mode === 'major' ? tonic : (tonic + 3) % 12]!
      best = { key: { fifths, mode }, correlation }
    }
  }
  return best
}

/** `keySignatureName({ fifths: -1, mode: 'minor' })` is "D minor". */
export function keySignatureName({ fifths, mode }: KeySignature): string {
  const tonic = Note.transposeFifths(mode === 'major' ? 'C' : 'A', fifths)
  return `${tonic.replaceAll('#', '♯').replaceAll('b', '♭')} ${mode}`
}

function pearson(a: readonly number[], b: readonly number[]): number {
  const meanA = a.reduce((sum, value) => sum + value, 0) / a.length
  const meanB = b.reduce((sum, value) => sum + value, 0) / b.length
  let [product, squaresA, squaresB] = [0, 0, 0]
  for (let i = 0; i < a.length; i++) {
    product += (a[i]! - meanA) * (b[i]! - meanB)
    squaresA += (a[i]! - meanA) ** 2
    squaresB += (b[i]! - meanB) ** 2
  }
  return squaresA === 0 ? 0 : product / Math.sqrt(squaresA * squaresB)
}
