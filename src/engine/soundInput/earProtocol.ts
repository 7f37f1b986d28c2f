import type { EarPicture } from '@/core/pitch/ear'
import type { SoundInput } from '@/core/pitch/soundInput'
import type { Milliseconds } from '@/core/time/units'
import type { ClockSample } from '../clock'

/** What the window tells the worklet of an input. */
export type ToEarWorklet =
  | { readonly type: 'connect'; readonly port: MessagePort }
  /** From 1. */
  | { readonly type: 'channel'; readonly channel: number }
  | { readonly type: 'end' }

/** A block of one channel, and when it began in the audio context's time. */
export interface SoundPiece {
  readonly samples: Float32Array<ArrayBuffer>
  readonly contextSeconds: number
}

/** What the window tells the thread that listens. */
export type ToEar =
  | {
      readonly type: 'listen'
      readonly port: MessagePort
      readonly deviceRate: number
      readonly latencyMs: Milliseconds
      readonly input: SoundInput
      readonly portId: string
      /** To the thread that keeps the sound. */
      readonly keeper: MessagePort
    }
  /** Whether the sound is kept. */
  | { readonly type: 'keep'; readonly isOn: boolean }
  /** It is listened to otherwise from now on. */
  | { readonly type: 'input'; readonly input: SoundInput }
  | { readonly type: 'tune'; readonly isOn: boolean }
  /** To be answered when everything that was played before now has been heard. */
  | { readonly type: 'settle' }
  /** The input is gone: what sounds ends. */
  | { readonly type: 'lost' }

/** A MIDI message with the moment it was played. */
export interface HeardMessage {
  readonly epochMs: Milliseconds
  readonly bytes: readonly [number, number, number]
}

export type FromEar =
  | { readonly type: 'messages'; readonly messages: readonly HeardMessage[] }
  | { readonly type: 'picture'; readonly picture: EarPicture; readonly clock: ClockSample }
  | { readonly type: 'settled' }
  /** So much of the sound never arrived: the machine was too busy to take it from the device. */
  | { readonly type: 'gap'; readonly lostMs: Milliseconds }
  | { readonly type: 'ended' }
