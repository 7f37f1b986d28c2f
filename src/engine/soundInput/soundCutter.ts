import type { FollowedFrame } from '@/core/pitch/lineFollower'
import { longestPieceMs, noPlace, traceStepMs } from '@/core/sound/keptSound'
import type { Milliseconds } from '@/core/time/units'
import type { SoundToKeep } from '../keptSound/keeperProtocol'

/** Where a piece lies further than this from where the one before it ended, the input has stood still: more than its clock wavers by. */
const standstillMs: Milliseconds = 100

/**
 * Cuts the sound of an input into pieces of a second, with what was heard in them. Where the input stood still (a busy machine lets
 * sound of a device go), a new stream begins, so that what follows lies where it was played.
 */
export class SoundCutter {
  private samples: Float32Array<ArrayBuffer>
  private readonly pieceSamples: number
  private filled = 0
  private first = 0
  private places: Int16Array
  private confidences: Uint8Array
  private streamId = crypto.randomUUID()
  /** Where the next piece is expected; null before the first, and after what was not kept. */
  private expectedMs: Milliseconds | null = null

  constructor(
    private readonly portId: string,
    private readonly sampleRate: number,
    /** When something was played that lies there in the sound. */
    private readonly epochMsOf: (soundMs: Milliseconds) => Milliseconds,
    private readonly keep: (sound: SoundToKeep) => void,
    /** So much of the sound never arrived. */
    private readonly onGap: (lostMs: Milliseconds) => void,
  ) {
    const steps = longestPieceMs / traceStepMs
    this.pieceSamples = (sampleRate * longestPieceMs) / 1000
    this.samples = new Float32Array(this.pieceSamples)
    this.places = new Int16Array(steps).fill(noPlace)
    this.confidences = new Uint8Array(steps)
  }

  /** @param frames what was heard, with moments in the whole sound */
  push(piece: Float32Array, frames: readonly FollowedFrame[]): void {
    const firstMs = (this.first / this.sampleRate) * 1000
    for (const { timeMs, place, confidence } of frames) {
      const step = Math.floor((timeMs - firstMs) / traceStepMs)
      if (step < 0 || step >= this.places.length) continue
      this.places[step] = place === null ? noPlace : Math.round(Math.max(0, Math.min(127, place)) * 100)
      this.confidences[step] = Math.round(confidence * 255)
    }
    for (let at = 0; at < piece.length; ) {
      const count = Math.min(piece.length - at, this.samples.length - this.filled)
      this.samples.set(piece.subarray(at, at + count), this.filled)
      this.filled += count
      at += count
      if (this.filled === this.samples.length) this.cut()
    }
  }

  /** Hands over what there is, as at the end. */
  cut(): void {
    if (this.filled === 0) return
    const { portId, sampleRate, first, filled, places, confidences } = this
    const samples = filled === this.samples.length ? this.samples : this.samples.slice(0, filled)
    const startMs = this.epochMsOf((first / sampleRate) * 1000)
    const offMs = startMs - (this.expectedMs ?? startMs)
    if (Math.abs(offMs) > standstillMs) this.streamId = crypto.randomUUID()
    if (offMs > standstillMs) this.onGap(offMs)
    this.expectedMs = startMs + (filled / sampleRate) * 1000
    const { streamId } = this
    this.keep({ portId, sampleRate, streamId, firstSample: first, startMs, samples, places, confidences })
    this.first += filled
    this.filled = 0
    // What was handed over is the other thread's now.
    this.samples = new Float32Array(this.pieceSamples)
    this.places = new Int16Array(places.length).fill(noPlace)
    this.confidences = new Uint8Array(confidences.length)
  }

  /** What was not kept is left out. */
  skip(samples: number): void {
    this.first += this.filled + samples
    this.filled = 0
    this.expectedMs = null
  }
}
