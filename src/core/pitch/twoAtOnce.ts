import { frequencyOfKey } from './listenerSettings'
import type { PowerSpectrum } from './spectrum'

const looked = 16
/** Less than this part of the power lies on no harmonic of either. */
const leftOver = 0.03

/**
 * When a note rings while the next one sounds, both repeat together with a longer period that nobody plays: a key that has no power on its
 * own first harmonic, nor on others that are neither those of the note before nor of one more note. An instrument whose fundamental is
 * weak (a small loudspeaker, a bassoon) has the others.
 *
 * @param key what was heard @param before the key that sounded before it, of which the key is a harmonic's
 * @param moments where in the sound to look, in samples
 * @param spectrum its window tells the harmonics of the key apart
 * @returns the key of the other note, or null when there is only one
 */
export function otherOfTwo(
  key: number,
  before: number,
  moments: readonly number[],
  samples: Float32Array,
  spectrum: PowerSpectrum,
  concertHz: number,
): number | null {
  const frequencyHz = frequencyOfKey(key, concertHz)
  const low = Math.round(frequencyOfKey(before, concertHz) / frequencyHz)
  if (low < 2) return null
  const powers = new Float64Array(looked + 1)
  for (const middle of moments) {
    spectrum.look(samples, middle - spectrum.windowSamples / 2)
    for (let harmonic = 1; harmonic <= looked; harmonic++)
      powers[harmonic]! += spectrum.near(frequencyHz * harmonic)
  }
  let all = 0
  for (const power of powers) all += power
  if (all === 0) return null
  const fits: { high: number; own: number }[] = []
  for (let high = 2; high <= 12; high++) {
    if (high % low === 0 || low % high === 0) continue
    let other = 0
    let own = 0
    for (let harmonic = 1; harmonic <= looked; harmonic++) {
      const isOfLow = harmonic % low === 0
      const isOfHigh = harmonic % high === 0
      if (!isOfLow && !isOfHigh) other += powers[harmonic]!
      else if (isOfHigh && !isOfLow) own += powers[harmonic]!
    }
    if (other < leftOver * all && own > leftOver * all) fits.push({ high, own })
  }
  // Multiples of six are multiples of two as well: the highest that has all the power is the one.
  const most = Math.max(...fits.map(({ own }) => own))
  const best = fits.findLast(({ own }) => own >= 0.9 * most)
  return best ? key + Math.round(12 * Math.log2(best.high)) : null
}
