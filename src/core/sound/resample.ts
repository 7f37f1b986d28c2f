/** How far a sample of the source is felt, in samples of the slower of the two rates. */
const reachSamples = 16
/** Places between two samples for which the weights are worked out beforehand. */
const phases = 256

/**
 * Brings sound to another rate, piece by piece: what pieces are pushed makes no difference to what comes out. It is a low-pass filter
 * (a sinc under a Kaiser window, about 70 dB) looked up between places.
 *
 * What comes out is late by nothing: sample n out lies at n / to seconds of the sound that was pushed; the last `reachSamples` come with
 * `end`.
 *
 * Source: J. O. Smith, "Digital Audio Resampling", CCRMA, Stanford University, 2002.
 */
export class Resampler {
  private readonly step: number
  private readonly halfWidth: number
  private readonly weights: Float32Array
  /** What may still be felt, from source sample `heldFrom` on; before the beginning is silence. */
  private held: Float32Array
  private heldFrom: number
  private written = 0

  /** @param fromRate @param toRate samples to the second, above 0 */
  constructor(
    readonly fromRate: number,
    readonly toRate: number,
  ) {
    this.step = fromRate / toRate
    const stretch = Math.max(1, this.step)
    this.halfWidth = Math.ceil(reachSamples * stretch)
    this.weights = weightsOf(this.halfWidth, stretch)
    this.held = new Float32Array(this.halfWidth)
    this.heldFrom = -this.halfWidth
  }

  /** @returns what is certain by now */
  push(samples: Float32Array): Float32Array {
    if (this.fromRate === this.toRate) return samples
    const joined = new Float32Array(this.held.length + samples.length)
    joined.set(this.held)
    joined.set(samples, this.held.length)
    const known = this.heldFrom + joined.length
    const count = Math.max(0, Math.ceil((known - this.halfWidth) / this.step) - this.written)
    const out = new Float32Array(count)
    for (let index = 0; index < count; index++)
      out[index] = this.at((this.written + index) * this.step - this.heldFrom, joined)
    this.written += count
    const from = Math.max(this.heldFrom, Math.floor(this.written * this.step) - this.halfWidth)
    this.held = joined.slice(from - this.heldFrom)
    this.heldFrom = from
    return out
  }

  /** @returns the rest, as if silence followed */
  end(): Float32Array {
    return this.fromRate === this.toRate ? new Float32Array(0) : this.push(new Float32Array(this.halfWidth))
  }

  private at(place: number, source: Float32Array): number {
    const { halfWidth, weights } = this
    const first = Math.floor(place) - halfWidth + 1
    // Weights are stored by distance in steps of 1 / phases.
    const offset = (place - first) * phases
    let sum = 0
    for (let index = 0; index < 2 * halfWidth; index++) {
      const distance = Math.abs(offset - index * phases)
      const low = Math.floor(distance)
      const weight = weights[low]! + (weights[low + 1]! - weights[low]!) * (distance - low)
      sum += weight * (source[first + index] ?? 0)
    }
    return sum
  }
}

/** A whole sound at another rate. */
export function resample(samples: Float32Array, fromRate: number, toRate: number): Float32Array {
  if (fromRate === toRate) return samples
  const resampler = new Resampler(fromRate, toRate)
  const first = resampler.push(samples)
  const last = resampler.end()
  const joined = new Float32Array(first.length + last.length)
  joined.set(first)
  joined.set(last, first.length)
  return joined
}

function weightsOf(halfWidth: number, stretch: number): Float32Array {
  const beta = 7
  const weights = new Float32Array(halfWidth * phases + 2)
  for (let index = 0; index < halfWidth * phases; index++) {
    const distance = index / phases
    const x = (Math.PI * distance * cutOff) / stretch
    const sinc = x === 0 ? 1 : Math.sin(x) / x
    const inside = distance / halfWidth
    weights[index] =
      (sinc * cutOff * bessel(beta * Math.sqrt(Math.max(0, 1 - inside * inside)))) / bessel(beta) / stretch
  }
  return weights
}

/** Where the filter lies, as a part of the highest frequency that can be told. */
const cutOff = 0.94

/** The modified Bessel function of the first kind and order zero, by its series. */
function bessel(x: number): number {
  let sum = 1
  let term = 1
  for (let k = 1; k < 40; k++) {
    term *= (x / 2 / k) ** 2
    sum += term
  }
  return sum
}
