import { PowerSpectrum } from './spectrum'

/**
 * How strongly something begins at each moment: the rise of the spectrum against the one of some steps before, where each part of it is
 * compared with the strongest of its neighbours, so that vibrato and slides are no beginnings.
 *
 * Source: S. Böck and G. Widmer, "Maximum Filter Vibrato Suppression for Onset Detection", DAFx 2013.
 */
export class AttackStrength {
  private readonly spectrum: PowerSpectrum
  /** Spectra of the last steps, newest last, in logarithmic magnitude. */
  private readonly before: Float32Array[] = []

  /** @param windowSamples a power of two @param stepsBack what is compared lies this many steps apart */
  constructor(
    windowSamples: number,
    private readonly stepsBack: number,
  ) {
    this.spectrum = new PowerSpectrum(windowSamples)
  }

  /** @param from where the window begins; steps must follow each other. @returns from 0; an attack of a played note is at 0.3 and above */
  of(samples: Float32Array, from: number): number {
    const { spectrum, before, stepsBack } = this
    const scale = (loudness * 4) / spectrum.windowSamples
    const now = spectrum.look(samples, from).bins.map((power) => Math.log10(1 + scale * Math.sqrt(power)))
    before.push(now)
    if (before.length > stepsBack + 1) before.shift()
    const then = before[0]!
    if (before.length <= stepsBack) return 0
    let rise = 0
    for (let bin = 1; bin < now.length - 1; bin++) {
      const strongest = Math.max(then[bin - 1]!, then[bin]!, then[bin + 1]!)
      const more = now[bin]! - strongest
      if (more > 0) rise += more
    }
    return (rise / now.length) * 10
  }
}

/** What magnitude is felt as something: below a thousandth of full scale the logarithm is nearly even. */
const loudness = 1000
