import FFT from 'fft.js'

/**
 * How alike a window of sound is to itself, later by each lag: the normalised square difference, 1 where it repeats exactly, 0 where
 * nothing is alike, −1 where it is turned over. Worked out through the spectrum.
 *
 * Source: P. McLeod and G. Wyvill, "A Smarter Way to Find Pitch", International Computer Music Conference, 2005, section 3.
 */
export class SquareDifference {
  private readonly transform: FFT
  private readonly padded: number[]
  private readonly spectrum: number[]
  private readonly correlation: number[]
  private readonly likeness: Float32Array
  private readonly transformSize: number

  /** @param windowSamples how many samples a window has */
  constructor(readonly windowSamples: number) {
    this.transformSize = 2 ** Math.ceil(Math.log2(2 * windowSamples))
    this.transform = new FFT(this.transformSize)
    this.padded = new Array(this.transformSize).fill(0)
    this.spectrum = this.transform.createComplexArray()
    this.correlation = this.transform.createComplexArray()
    this.likeness = new Float32Array(windowSamples)
  }

  /**
   * @param samples the window begins at `from`; samples beyond the end count as silence
   * @returns by lag in samples, from 0 to the window's length; overwritten by the next call. All 0 for silence.
   */
  of(samples: Float32Array, from: number): Float32Array {
    const { windowSamples, transform, padded, spectrum, correlation, likeness } = this
    let energy = 0
    for (let index = 0; index < windowSamples; index++) {
      const sample = samples[from + index] ?? 0
      padded[index] = sample
      energy += sample * sample
    }
    if (energy < 1e-12) return likeness.fill(0)
    transform.realTransform(spectrum, padded)
    for (let index = 0; index <= this.transformSize; index += 2) {
      const real = spectrum[index]!
      const imaginary = spectrum[index + 1]!
      spectrum[index] = real * real + imaginary * imaginary
      spectrum[index + 1] = 0
    }
    transform.completeSpectrum(spectrum)
    transform.inverseTransform(correlation, spectrum)
    let both = 2 * energy
    for (let lag = 0; lag < windowSamples; lag++) {
      likeness[lag] = both > 1e-9 * energy ? (2 * correlation[2 * lag]!) / both : 0
      both -= padded[lag]! ** 2 + padded[windowSamples - 1 - lag]! ** 2
    }
    return likeness
  }
}
