import * as Flac from 'libflacjs/dist/libflac.js'
import { joinBytes } from '@/core/border/joinBytes'

/** Sixteen bits: what a converter gives beyond them is noise. */
const bits = 16
const fullScale = 32_767
/** From 0 (quick) to 8 (small). */
const effort = 5

/** Resolves when sound can be encoded. */
export function encoderReady(): Promise<void> {
  if (Flac.isReady()) return Promise.resolve()
  return new Promise((resolve) => Flac.on('ready', () => resolve()))
}

/**
 * Writes one channel of sound as a whole FLAC file: nothing but what lies beneath sixteen bits is lost.
 *
 * Format: RFC 9639; written by libFLAC.
 *
 * @param samples what is beyond full scale is cut off
 * @throws Error when the encoder does not take it
 */
export function encodeFlac(samples: Float32Array, sampleRate: number): Uint8Array {
  const encoder = Flac.create_libflac_encoder(sampleRate, 1, bits, effort, samples.length, false)
  if (encoder === 0) throw new Error(`Sound of ${sampleRate} samples to the second cannot be kept`)
  try {
    const blocks: Uint8Array[] = []
    const status = Flac.init_encoder_stream(encoder, (block) => {
      // What is given is written over by the next call.
      blocks.push(Uint8Array.from(block))
    })
    if (status !== 0) throw new Error(`The sound cannot be kept: the encoder says ${status}`)
    const whole = new Int32Array(samples.length)
    for (let index = 0; index < whole.length; index++)
      whole[index] = Math.max(-fullScale - 1, Math.min(fullScale, Math.round(samples[index]! * fullScale)))
    if (!Flac.FLAC__stream_encoder_process(encoder, [whole], whole.length))
      throw new Error('The sound cannot be kept: the encoder takes no more')
    Flac.FLAC__stream_encoder_finish(encoder)
    return joinBytes(blocks)
  } finally {
    Flac.FLAC__stream_encoder_delete(encoder)
  }
}
