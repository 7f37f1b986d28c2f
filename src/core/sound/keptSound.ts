/** No piece is longer. */
export const longestPieceMs = 1000
/** From moment to moment in what is kept beside the sound. */
export const traceStepMs = 10
/** No pitch was heard. */
export const noPlace = -1

/** What is known of a piece of kept sound without reading it: pieces of one stream follow each other to the sample. */
export interface KeptOutline {
  /** Of the input while it was open once. */
  readonly streamId: string
  readonly portId: string
  /** When its first sample was played, on the epoch clock. */
  readonly startMs: number
  readonly sampleRate: number
  readonly sampleCount: number
  /** Where it begins in its stream. */
  readonly firstSample: number
  /** Of the sound as it is stored. */
  readonly byteLength: number
  /** The highest of each `traceStepMs`, 255 for full scale. */
  readonly peaks: Uint8Array
  /** The pitch that was heard in each `traceStepMs`, in hundredths of a key above key 0; `noPlace` for none. */
  readonly places: Int16Array
  /** How sure it was, 255 for wholly. */
  readonly confidences: Uint8Array
}

export const endMsOf = ({ startMs, sampleCount, sampleRate }: KeptOutline) =>
  startMs + (sampleCount / sampleRate) * 1000

/** A stretch of sound on the epoch clock, within which something was played. */
export interface KeptStretch {
  readonly fromMs: number
  readonly toMs: number
}

export const isWithin = (outline: KeptOutline, { fromMs, toMs }: KeptStretch) =>
  endMsOf(outline) > fromMs && outline.startMs < toMs

/**
 * Puts pieces together as one sound. Where a stream goes on, its pieces follow each other to the sample, whatever their clock says; where
 * there is none, it is silent.
 */
export class SoundAssembly {
  /** One channel. */
  readonly samples: Float32Array<ArrayBuffer>
  private readonly beginnings = new Map<string, number>()

  constructor(
    private readonly stretch: KeptStretch,
    readonly sampleRate: number,
  ) {
    const { fromMs, toMs } = stretch
    this.samples = new Float32Array(Math.max(0, Math.round(((toMs - fromMs) / 1000) * sampleRate)))
  }

  /** Pieces come in order of time; of another rate, one is left out. */
  add({ streamId, firstSample, startMs, sampleRate }: KeptOutline, piece: Float32Array): void {
    if (sampleRate !== this.sampleRate) return
    let beginning = this.beginnings.get(streamId)
    if (beginning === undefined) {
      beginning = Math.round(((startMs - this.stretch.fromMs) / 1000) * sampleRate) - firstSample
      this.beginnings.set(streamId, beginning)
    }
    const at = beginning + firstSample
    const from = Math.max(0, -at)
    const to = Math.min(piece.length, this.samples.length - at)
    if (to > from) this.samples.set(piece.subarray(from, to), at + from)
  }
}

/** The highest of each step of a piece of sound. */
export function peaksOf(samples: Float32Array, sampleRate: number): Uint8Array {
  const step = (sampleRate * traceStepMs) / 1000
  const peaks = new Uint8Array(Math.ceil(samples.length / step))
  for (let index = 0; index < peaks.length; index++) {
    let peak = 0
    const to = Math.min(samples.length, Math.round((index + 1) * step))
    for (let sample = Math.round(index * step); sample < to; sample++)
      peak = Math.max(peak, Math.abs(samples[sample]!))
    peaks[index] = Math.min(255, Math.round(peak * 255))
  }
  return peaks
}
