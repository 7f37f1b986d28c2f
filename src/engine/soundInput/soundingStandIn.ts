import { type Remote, wrap } from 'comlink'
import type { SoundingPlayer, TimedTone } from '@/core/demo/soundingPlayers'
import type { Milliseconds } from '@/core/time/units'
import { clockName, clockPasses, epochNowMs } from '../clock'
import type { SoundDevice } from './soundDevice'
import type { SoundingApi } from './soundingStandIn.worker'

/** Tones are made ready this long before they sound. */
const aheadMs = 1500
/** A string or pipe that goes to the next tone leaves the one before within this. */
const turnSeconds = 0.008

/** Where the sound of an open input lies on the clock. */
export type ContextSecondsAt = (epochMs: Milliseconds) => number | null

/**
 * Somebody who is not really there plays into an input: what comes out is the sound of an instrument made by its model, tone by tone, and
 * nothing else is told of it.
 */
export class SoundingStandIn implements SoundDevice {
  readonly id: string
  readonly name: string
  private gain: GainNode | null = null
  private readonly worker: Worker
  private readonly api: Remote<SoundingApi>
  private sounding: { source: AudioBufferSourceNode; gain: GainNode; endsAt: number }[] = []
  /** Raised when a performance begins or ends: what an earlier one still wants is out of date. */
  private turn = 0

  constructor(readonly player: SoundingPlayer) {
    this.id = player.deviceId
    this.name = player.name
    this.worker = new Worker(new URL('./soundingStandIn.worker.ts', import.meta.url), {
      type: 'module',
      name: clockName,
    })
    this.api = wrap<SoundingApi>(this.worker)
  }

  async open(context: AudioContext) {
    const gain = context.createGain()
    this.gain = gain
    return {
      node: gain,
      channelCount: 1,
      latencyMs: 0,
      remarks: [],
      close: () => {
        this.stop()
        gain.disconnect()
        this.gain = null
      },
    }
  }

  /**
   * @param startMs the moment of the first beat, on the epoch clock
   * @param secondsAt when in the audio context's time a moment is heard at the input
   */
  async perform(
    startMs: Milliseconds,
    tones: readonly TimedTone[],
    secondsAt: ContextSecondsAt,
  ): Promise<void> {
    this.stop()
    const mine = this.turn
    for (const { timeMs, tone } of tones) {
      const waitMs = startMs + timeMs - aheadMs - epochNowMs()
      if (waitMs > 0) await clockPasses(waitMs)
      if (mine !== this.turn || !this.gain) return
      const { context } = this.gain
      const samples = await this.api.sound(this.player.model, tone, context.sampleRate)
      if (mine !== this.turn || !this.gain) return
      const at = secondsAt(startMs + timeMs) ?? context.currentTime
      this.play(Float32Array.from(samples), at)
    }
  }

  private play(samples: Float32Array<ArrayBuffer>, at: number): void {
    const output = this.gain!
    const { context } = output
    const buffer = context.createBuffer(1, samples.length, context.sampleRate)
    buffer.copyToChannel(samples, 0)
    const source = context.createBufferSource()
    source.buffer = buffer
    const gain = context.createGain()
    source.connect(gain).connect(output)
    const late = Math.max(0, context.currentTime - at)
    if (late >= buffer.duration) return
    const begins = at + late
    for (const before of this.sounding)
      if (before.endsAt > begins) {
        before.gain.gain.setValueAtTime(1, begins)
        before.gain.gain.linearRampToValueAtTime(0, begins + turnSeconds)
        before.source.stop(begins + turnSeconds)
        before.endsAt = begins
      }
    source.start(begins, late)
    const sounding = { source, gain, endsAt: begins + buffer.duration - late }
    this.sounding = [...this.sounding.filter(({ endsAt }) => endsAt > context.currentTime), sounding]
  }

  stop(): void {
    this.turn++
    for (const { source } of this.sounding) source.stop()
    this.sounding = []
  }

  dispose(): void {
    this.stop()
    this.worker.terminate()
  }
}
