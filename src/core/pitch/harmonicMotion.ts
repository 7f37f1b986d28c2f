import { listeningRate } from './listenerSettings'

/** Five milliseconds from value to value. */
export const motionStepMs = 5

/** How the harmonics of a tone move against each other, every `motionStepMs`, the first value at `fromMs`. */
export interface HarmonicMotion {
  readonly fromMs: number
  /** How far their frequencies part from those of one tone, in hertz. */
  readonly partingHz: Float32Array
  /** How unlike their levels change, in decibels to ten milliseconds. */
  readonly unlikeDb: Float32Array
}

const mostHarmonics = 6
const highestHz = 8000
/** A window is no shorter than this, and holds no fewer periods. */
const shortestWindowSeconds = 0.014
const fewestPeriods = 3
/** A harmonic that is fainter than this part of the strongest tells nothing. */
const faintest = 0.003

/**
 * Watches the harmonics of one tone, each by itself. Vibrato, slides, breath and swells move all of them together; a tone that begins while
 * the same one still rings meets every harmonic at another phase, so that each is bent and swells or sinks by itself for a moment. Each
 * harmonic is shifted to zero frequency under a Hann window (heterodyne filter: J. W. Beauchamp, "Synthesis by Spectral Amplitude and
 * Brightness Matching of Analyzed Musical Instrument Tones", J. Audio Eng. Soc. 30, 1982); what all of them have in common is taken off.
 *
 * @param samples at `listeningRate` @param frequencyHz of the tone, to a third of a semitone
 */
export function harmonicMotion(
  samples: Float32Array,
  fromMs: number,
  toMs: number,
  frequencyHz: number,
): HarmonicMotion {
  const count = Math.max(1, Math.min(mostHarmonics, Math.floor(highestHz / frequencyHz)))
  const steps = Math.max(0, Math.floor((toMs - fromMs) / motionStepMs) + 1)
  const harmonics = Array.from({ length: count }, (_, index) =>
    baseband(samples, fromMs, steps, frequencyHz, index + 1),
  )
  const partingHz = new Float32Array(steps)
  const unlikeDb = new Float32Array(steps)
  const bends = new Float64Array(count)
  const swells = new Float64Array(count)
  const weights = new Float64Array(count)
  for (let step = 0; step < steps; step++) {
    const earlier = Math.max(0, step - 1)
    const later = Math.min(steps - 1, step + 1)
    const seconds = (Math.max(1, later - earlier) * motionStepMs) / 1000
    for (const [index, { real, imaginary }] of harmonics.entries()) {
      const [a, b, c, d] = [real[earlier]!, imaginary[earlier]!, real[later]!, imaginary[later]!]
      const before = a * a + b * b
      const after = c * c + d * d
      bends[index] = Math.atan2(d * a - c * b, c * a + d * b) / (2 * Math.PI * seconds)
      swells[index] = (10 * Math.log10((after + 1e-10) / (before + 1e-10))) / (seconds * 100)
      weights[index] = Math.sqrt(Math.min(before, after))
    }
    const strongest = weights.indexOf(Math.max(...weights))
    const least = weights[strongest]! * faintest
    // Phases tell frequencies but for whole turns: what the strongest does, the others are expected to do.
    const turnHz = 1 / seconds
    const expectedHz = bends[strongest]! / (strongest + 1)
    let weight = 1e-9
    let squares = 1e-9
    let slope = 0
    let swell = 0
    for (let index = 0; index < count; index++) {
      const own = Math.sqrt(Math.max(0, weights[index]! - least))
      const restHz = bends[index]! - expectedHz * (index + 1)
      bends[index] = restHz - turnHz * Math.round(restHz / turnHz)
      weights[index] = own
      weight += own
      squares += own * (index + 1) ** 2
      slope += own * (index + 1) * bends[index]!
      swell += own * swells[index]!
    }
    const commonHz = slope / squares
    const commonDb = swell / weight
    let parting = 0
    let unlike = 0
    for (let index = 0; index < count; index++) {
      parting += weights[index]! * (bends[index]! - commonHz * (index + 1)) ** 2
      unlike += weights[index]! * (swells[index]! - commonDb) ** 2
    }
    partingHz[step] = Math.sqrt(parting / weight)
    unlikeDb[step] = Math.sqrt(unlike / weight)
  }
  return { fromMs, partingHz, unlikeDb }
}

/** One harmonic, shifted to zero frequency. */
function baseband(
  samples: Float32Array,
  fromMs: number,
  steps: number,
  frequencyHz: number,
  harmonic: number,
): { real: Float64Array; imaginary: Float64Array } {
  // Of whole periods: the harmonics beside the one that is watched fall on the zeros of the window's spectrum.
  const periods = Math.max(fewestPeriods, Math.ceil(shortestWindowSeconds * frequencyHz))
  const window = hann(Math.round((periods / frequencyHz) * listeningRate))
  const turn = (2 * Math.PI * harmonic * frequencyHz) / listeningRate
  const [cosine, sine] = [Math.cos(turn), -Math.sin(turn)]
  const real = new Float64Array(steps)
  const imaginary = new Float64Array(steps)
  for (let step = 0; step < steps; step++) {
    const middle = Math.round(((fromMs + step * motionStepMs) / 1000) * listeningRate)
    const from = middle - (window.length >> 1)
    let x = Math.cos(turn * from)
    let y = -Math.sin(turn * from)
    for (let index = 0; index < window.length; index++) {
      const value = (samples[from + index] ?? 0) * window[index]!
      real[step]! += value * x
      imaginary[step]! += value * y
      const next = x * cosine - y * sine
      y = x * sine + y * cosine
      x = next
    }
  }
  return { real, imaginary }
}

/** A Hann window whose values sum to one. */
function hann(length: number): Float64Array {
  return Float64Array.from(
    { length },
    (_, index) => (1 - Math.cos((2 * Math.PI * (index + 0.5)) / length)) / length,
  )
}
