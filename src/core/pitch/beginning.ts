import { frequencyOfKey, listeningRate } from './listenerSettings'
import type { PowerSpectrum } from './spectrum'

/** How far back a beginning is looked for. */
const backMs = 160
const aheadMs = 80
const stepMs = 5
/** A note has begun when its harmonics have this part of what they reach, in decibels. */
const begunDb = -20
/** And this much more than there was before it. */
const abovePastDb = 5
/** The window feels a sudden beginning this long before its middle. */
const feltBeforeMs = 0

/**
 * When a note that begins softly began: its pitch is known only when it outweighs what rings on, but the harmonics that are its own have
 * been rising since. Looks back for the moment at which they began to.
 *
 * @param foundMs when its pitch was found
 * @param before the key that sounded before, whose harmonics say nothing
 * @param tuned how many keys the instrument is tuned above concert pitch
 */
export function beginningOf(
  spectrum: PowerSpectrum,
  samples: Float32Array,
  note: { key: number; foundMs: number; before: number | null },
  concertHz: number,
  tuned: number,
): number {
  const { key, foundMs, before } = note
  const own = frequencyOfKey(key + tuned, concertHz)
  const other = before === null ? null : frequencyOfKey(before + tuned, concertHz)
  const width = (2.2 * listeningRate) / spectrum.windowSamples
  const harmonics = [1, 2, 3, 4, 5, 6, 7, 8]
    .map((harmonic) => own * harmonic)
    .filter((hz) => other === null || Math.abs(hz - Math.round(hz / other) * other) > width)
  if (harmonics.length === 0) return foundMs
  const at = (ms: number) => {
    const from = Math.round((ms / 1000) * listeningRate) - spectrum.windowSamples / 2
    spectrum.look(samples, from)
    let power = 0
    for (const hz of harmonics) power += spectrum.near(hz)
    return 10 * Math.log10(power + 1e-9)
  }
  let reached = -Infinity
  for (let ms = foundMs; ms <= foundMs + aheadMs; ms += stepMs) reached = Math.max(reached, at(ms))
  const back: number[] = []
  for (let ms = foundMs; ms >= foundMs - backMs; ms -= stepMs) back.push(at(ms))
  const begun = Math.max(reached + begunDb, Math.min(...back) + abovePastDb)
  let steps = 0
  while (steps + 1 < back.length && back[steps + 1]! >= begun) steps++
  const begunMs = foundMs - steps * stepMs
  return begunMs + feltBeforeMs
}
