import type { Milliseconds } from '@/core/time/units'

/** Something that sound comes from: a microphone, an instrument's cable, a stand-in. All are used alike. */
export interface SoundDevice {
  readonly id: string
  readonly name: string
  /**
   * Opens it in an audio context; asks for permission where that is needed.
   *
   * @param onLost called once when it is taken away; not after `close`
   * @throws Error with a sentence for the user
   */
  open(context: AudioContext, onLost: () => void): Promise<OpenSoundDevice>
}

export interface OpenSoundDevice {
  /** Where its sound comes out. */
  readonly node: AudioNode
  readonly channelCount: number
  /** What the device says it is late by. */
  readonly latencyMs: Milliseconds
  /** What the browser does to the sound although it was asked not to, in words. */
  readonly remarks: readonly string[]
  close(): void
}
