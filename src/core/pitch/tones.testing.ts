import { frequencyOfKey, listeningRate } from './listenerSettings'
import { chanceFrom } from './playedLines.testing'

/** How a tone for tests is made. */
export interface ToneManner {
  /** Strength of each harmonic, from the first. */
  readonly harmonics: readonly number[]
  /** Stretch of the harmonics of a stiff string: f(n) = n f √(1 + B n²). */
  readonly stiffness?: number
  /** Seconds after which it has died to a thousandth; none: it stays. */
  readonly dieSeconds?: number
  readonly vibratoCents?: number
  readonly vibratoHz?: number
  /** Noise this far below it. */
  readonly noiseDb?: number
  /** A hum of the mains this far below it. */
  readonly humDb?: number
}

/** A tone of known frequency, with its true pitch at any time. */
export function tone(
  frequencyHz: number,
  seconds: number,
  sampleRate: number,
  manner: ToneManner,
): { samples: Float32Array; frequencyAt(seconds: number): number } {
  const { harmonics, stiffness = 0, dieSeconds, vibratoCents = 0, vibratoHz = 5.5 } = manner
  const samples = new Float32Array(Math.round(seconds * sampleRate))
  const frequencyAt = (at: number) =>
    frequencyHz * 2 ** ((vibratoCents / 1200) * Math.sin(2 * Math.PI * vibratoHz * at))
  let cycles = 0
  const phases = harmonics.map((_, index) => (index * 2.399963) % 1)
  for (let index = 0; index < samples.length; index++) {
    const at = index / sampleRate
    cycles += frequencyAt(at) / sampleRate
    const decay = dieSeconds === undefined ? 1 : 10 ** ((-3 * at) / dieSeconds)
    let sum = 0
    for (const [place, strength] of harmonics.entries()) {
      const order = place + 1
      const multiple = order * Math.sqrt(1 + stiffness * order * order)
      if (multiple * frequencyHz < sampleRate * 0.45)
        sum += strength * Math.sin(2 * Math.PI * (cycles * multiple + phases[place]!))
    }
    samples[index] = sum * decay
  }
  let power = 0
  for (const sample of samples) power += sample * sample
  const scale = 0.1 / Math.sqrt(power / samples.length)
  const chance = chanceFrom(Math.round(frequencyHz * 10))
  const noise = manner.noiseDb === undefined ? 0 : 0.1 * 10 ** (-manner.noiseDb / 20) * Math.sqrt(3)
  const hum = manner.humDb === undefined ? 0 : 0.1 * 10 ** (-manner.humDb / 20) * Math.SQRT2
  return {
    frequencyAt,
    samples: samples.map(
      (sample, index) =>
        sample * scale + noise * (2 * chance() - 1) + hum * Math.sin((2 * Math.PI * 50 * index) / sampleRate),
    ),
  }
}

/** Nothing, for a while. */
export const silence = (seconds: number) => new Float32Array(Math.round(seconds * listeningRate))

/** A string that is plucked and dies away, in tune with A4 = 440 Hz. */
export const plucked = (key: number, seconds: number) =>
  tone(frequencyOfKey(key, 440), seconds, listeningRate, {
    harmonics: [1, 0.5, 0.4, 0.2, 0.1],
    dieSeconds: 1.5,
  }).samples

/** One sound behind the other. */
export function joined(parts: readonly Float32Array[]): Float32Array {
  const all = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    all.set(part, at)
    at += part.length
  }
  return all
}

/** A line that slides or steps from key to key. @param keyAt where it is at each second */
export function bowed(keyAt: (seconds: number) => number, seconds: number): Float32Array {
  let cycles = 0
  return Float32Array.from({ length: listeningRate * seconds }, (_, index) => {
    cycles += frequencyOfKey(keyAt(index / listeningRate), 440) / listeningRate
    return 0.2 * (Math.sin(2 * Math.PI * cycles) + 0.4 * Math.sin(4 * Math.PI * cycles))
  })
}
