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
 *
 * @param pieces in order of time
 * @returns one channel at the rate of the first piece
 */
export function assembledSound(
  pieces: readonly { readonly outline: KeptOutline; readonly samples: Float32Array }[],
  { fromMs, toMs }: KeptStretch,
): { readonly samples: Float32Array; readonly sampleRate: number } {
  const sampleRate = pieces[0]?.outline.sampleRate ?? 44_100
  const samples = new Float32Array(Math.max(0, Math.round(((toMs - fromMs) / 1000) * sampleRate)))
  const beginnings = new Map<string, number>()
  for (const { outline, samples: piece } of pieces) {
    if (outline.sampleRate !== sampleRate) continue
    const { streamId, firstSample, startMs } = outline
    let beginning = beginnings.get(streamId)
    if (beginning === undefined) {
      beginning = Math.round(((startMs - fromMs) / 1000) * sampleRate) - firstSample
      beginnings.set(streamId, beginning)
    }
    const at = beginning + firstSample
    const from = Math.max(0, -at)
    const to = Math.min(piece.length, samples.length - at)
    if (to > from) samples.set(piece.subarray(from, to), at + from)
  }
  return { samples, sampleRate }
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
