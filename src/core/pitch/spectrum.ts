import FFT from 'fft.js'
import { listeningRate } from './listenerSettings'

/** The power of a window of sound at `listeningRate` by frequency, under a Hann window. */
export class PowerSpectrum {
  private readonly transform: FFT
  private readonly window: Float32Array
  private readonly shaped: number[]
  private readonly complex: number[]
  private readonly power: Float32Array

  /** @param windowSamples a power of two */
  constructor(readonly windowSamples: number) {
    this.transform = new FFT(windowSamples)
    this.window = Float32Array.from(
      { length: windowSamples },
      (_, index) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (index + 0.5)) / windowSamples),
    )
    this.shaped = new Array(windowSamples).fill(0)
    this.complex = this.transform.createComplexArray()
    this.power = new Float32Array(windowSamples / 2)
  }

  /** @param from the sample the window begins at; what is beyond the sound is silence. Looked into by `near` until the next call. */
  look(samples: Float32Array, from: number): this {
    const { windowSamples, transform, shaped, complex, window, power } = this
    for (let index = 0; index < windowSamples; index++)
      shaped[index] = (samples[from + index] ?? 0) * window[index]!
    transform.realTransform(complex, shaped)
    for (let bin = 0; bin < power.length; bin++)
      power[bin] = complex[2 * bin]! ** 2 + complex[2 * bin + 1]! ** 2
    return this
  }

  /** The strongest power within half the width of a tone around a frequency; 0 beyond the highest. */
  near(frequencyHz: number): number {
    const place = (frequencyHz * this.windowSamples) / listeningRate
    const low = Math.max(1, Math.floor(place - 0.3))
    const high = Math.ceil(place + 0.3)
    if (high >= this.power.length) return 0
    let most = 0
    for (let bin = low; bin <= high; bin++) most = Math.max(most, this.power[bin]!)
    return most
  }

  /** Power by bin of `listeningRate / windowSamples` hertz, of the window that was looked at last. */
  get bins(): Float32Array {
    return this.power
  }
}
