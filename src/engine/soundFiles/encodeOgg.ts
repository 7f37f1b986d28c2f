import { createEncoder } from 'wasm-media-encoders'
import { joinBytes } from '@/core/border/joinBytes'
import type { SampleRate, Stereo } from '@/core/sound/wav'

/** Some 190 kilobits a second: what is lost is not heard. */
const quality = 6
/** Frames handed over together. */
const blockFrames = 65_536

/** Writes sound as Ogg Vorbis; as long as it was, to the sample. */
export type OggEncoder = (sound: Stereo, sampleRate: SampleRate) => Uint8Array

/** @param wasm the encoder's program */
export async function oggEncoder(wasm: ArrayBuffer): Promise<OggEncoder> {
  const encoder = await createEncoder('audio/ogg', wasm)
  return ({ left, right }, sampleRate) => {
    // The number of the stream is the same each time, so that a file can be made again bit by bit.
    encoder.configure({ channels: 2, sampleRate, vbrQuality: quality, oggSerialNo: 1 })
    const blocks: Uint8Array[] = []
    for (let from = 0; from < left.length; from += blockFrames) {
      const to = Math.min(left.length, from + blockFrames)
      // What is given back is written over by the next call.
      blocks.push(Uint8Array.from(encoder.encode([left.subarray(from, to), right.subarray(from, to)])))
    }
    blocks.push(Uint8Array.from(encoder.finalize()))
    return joinBytes(blocks)
  }
}
