import FFT from 'fft.js'

/**
 * How strongly something begins at each moment: the rise of the spectrum against the one of two steps before, where each part of it is
 * compared with the strongest of its neighbours, so that vibrato and slides are no beginnings.
 *
 * Source: S. Böck and G. Widmer, "Maximum Filter Vibrato Suppression for Onset Detection", DAFx 2013.
 */
export class AttackStrength {
  private readonly transform: FFT
  private readonly window: Float32Array
  private readonly shaped: number[]
  private readonly spectrum: number[]
  /** Spectra of the last steps, newest last, in logarithmic magnitude. */
  private readonly before: Float32Array[] = []
  private readonly bins: number

  /** @param windowSamples a power of two @param stepsBack what is compared lies this many steps apart */
  constructor(
    readonly windowSamples: number,
    private readonly stepsBack: number,
  ) {
    this.transform = new FFT(windowSamples)
    this.window = Float32Array.from(
      { length: windowSamples },
      (_, index) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (index + 0.5)) / windowSamples),
    )
    this.shaped = new Array(windowSamples).fill(0)
    this.spectrum = this.transform.createComplexArray()
    this.bins = windowSamples / 2
  }

  /** @param from where the window begins; steps must follow each other. @returns from 0; an attack of a played note is at 0.3 and above */
  of(samples: Float32Array, from: number): number {
    const { windowSamples, transform, shaped, spectrum, window, bins, before, stepsBack } = this
    for (let index = 0; index < windowSamples; index++)
      shaped[index] = (samples[from + index] ?? 0) * window[index]!
    transform.realTransform(spectrum, shaped)
    const now = new Float32Array(bins)
    for (let bin = 0; bin < bins; bin++)
      now[bin] = Math.log10(
        1 + loudness * Math.hypot(spectrum[2 * bin]!, spectrum[2 * bin + 1]!) * (4 / windowSamples),
      )
    before.push(now)
    if (before.length > stepsBack + 1) before.shift()
    const then = before[0]!
    if (before.length <= stepsBack) return 0
    let rise = 0
    for (let bin = 1; bin < bins - 1; bin++) {
      const strongest = Math.max(then[bin - 1]!, then[bin]!, then[bin + 1]!)
      const more = now[bin]! - strongest
      if (more > 0) rise += more
    }
    return (rise / bins) * 10
  }
}

/** What magnitude is felt as something: below a thousandth of full scale the logarithm is nearly even. */
const loudness = 1000
