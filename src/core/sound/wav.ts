/** Two channels of sound; samples from −1 to 1, the same number in each. */
export interface Stereo {
  readonly left: Float32Array
  readonly right: Float32Array
}

export const sampleRates = [44_100, 48_000] as const
export type SampleRate = (typeof sampleRates)[number]
/** Forms of sound files: every sample, or what is heard of them in a tenth of the room. */
export const soundForms = ['wav', 'ogg'] as const
export type SoundForm = (typeof soundForms)[number]
export const sampleBits = [16, 24] as const
export type SampleBits = (typeof sampleBits)[number]

const headerBytes = 44

/**
 * Writes sound as a WAV file of whole numbers. Samples beyond full scale are held at it; with 16 bits, what is lost in rounding becomes a
 * faint even noise (triangular dither of two steps) and no distortion of soft sounds.
 *
 * @param sound two channels, or one
 * @param isWhole the samples are steps of sixteen bits already, as out of another file: nothing is rounded, so nothing is added
 *
 * Sources: Multimedia Programming Interface and Data Specifications 1.0, IBM and Microsoft, 1991 (RIFF WAVE, PCM); S. P. Lipshitz,
 * R. A. Wannamaker and J. Vanderkooy, "Quantization and Dither", J. Audio Eng. Soc. 40 (1992).
 *
 * @throws RangeError when it would be larger than the four gigabytes that the format can say
 */
export function writeWav(
  sound: Stereo | Float32Array,
  sampleRate: number,
  bits: SampleBits,
  isWhole = false,
): Uint8Array<ArrayBuffer> {
  const each = sound instanceof Float32Array ? [sound] : [sound.left, sound.right]
  const channels = each.length
  const frames = each[0]!.length
  const bytesToSample = bits / 8
  const dataBytes = frames * channels * bytesToSample
  if (headerBytes + dataBytes > 0xffff_ffff)
    throw new RangeError('The sound is longer than a WAV file can be (four gigabytes)')
  const bytes = new Uint8Array(headerBytes + dataBytes)
  const view = new DataView(bytes.buffer)
  const text = (at: number, letters: string) => {
    for (let index = 0; index < letters.length; index++) bytes[at + index] = letters.charCodeAt(index)
  }
  text(0, 'RIFF')
  view.setUint32(4, headerBytes - 8 + dataBytes, true)
  text(8, 'WAVEfmt ')
  view.setUint32(16, 16, true)
  view.setUint16(20, 1, true)
  view.setUint16(22, channels, true)
  view.setUint32(24, sampleRate, true)
  view.setUint32(28, sampleRate * channels * bytesToSample, true)
  view.setUint16(32, channels * bytesToSample, true)
  view.setUint16(34, bits, true)
  text(36, 'data')
  view.setUint32(40, dataBytes, true)
  const fullScale = 2 ** (bits - 1)
  const dither = bits === 16 && !isWhole ? ditherSource() : () => 0
  let at = headerBytes
  for (let frame = 0; frame < frames; frame++)
    for (const channel of each) {
      const value = Math.max(
        -fullScale,
        Math.min(fullScale - 1, Math.round(channel[frame]! * fullScale + dither())),
      )
      if (bits === 16) view.setInt16(at, value, true)
      else {
        view.setUint16(at, value & 0xffff, true)
        view.setInt8(at + 2, value >> 16)
      }
      at += bytesToSample
    }
  return bytes
}

/** Noise of two steps, densest in the middle; the same each time, so that a file can be made again bit by bit. */
function ditherSource(): () => number {
  let state = 0x2545f491
  const next = () => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return (state >>> 0) / 2 ** 32
  }
  return () => next() - next()
}

/** The largest sample of a sound, from 0. */
export function peakOf({ left, right }: Stereo): number {
  let peak = 0
  for (const channel of [left, right])
    for (const sample of channel) {
      const size = Math.abs(sample)
      if (size > peak) peak = size
    }
  return peak
}
