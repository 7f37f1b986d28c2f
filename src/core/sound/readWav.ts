import { FileProblem } from '../border/fileProblem'

/** Sound as it is in a file: a row of samples from −1 to 1 for each channel, all of one length. */
export interface Sound {
  readonly sampleRate: number
  readonly channels: readonly Float32Array[]
}

/** More than any real recording has. */
const mostChannels = 64
const wholeNumbers = 1
const floatingPoint = 3
const extensible = 0xfffe

/**
 * Reads a WAV file: whole numbers of 8, 16, 24 or 32 bits, floating point of 32 or 64, any rate, any number of channels. One that was
 * cut off is read as far as it goes, as is one whose length was never written (a recorder that was switched off).
 *
 * Sources: Multimedia Programming Interface and Data Specifications 1.0, IBM and Microsoft, 1991; Multiple Channel Audio Data and WAVE
 * Files, Microsoft, 2001 (the extensible form).
 *
 * @throws FileProblem when it is none, holds another coding, or has no sound in it
 */
export function readWav(bytes: Uint8Array): Sound {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const text = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4))
  if (bytes.length < 12 || !['RIFF', 'RF64'].includes(text(0)) || text(8) !== 'WAVE')
    throw new FileProblem('This is not a WAV file: it does not begin with RIFF and WAVE')
  let form: { coding: number; channels: number; sampleRate: number; bits: number } | null = null
  let at = 12
  while (at + 8 <= bytes.length) {
    const name = text(at)
    const length = view.getUint32(at + 4, true)
    const from = at + 8
    if (name === 'fmt ') {
      if (from + 16 > bytes.length || length < 16)
        throw new FileProblem(`The WAV file ends within its description, at byte ${from}`)
      const told = view.getUint16(from, true)
      const coding =
        told === extensible && length >= 26 && from + 26 <= bytes.length
          ? view.getUint16(from + 24, true)
          : told
      form = {
        coding,
        channels: view.getUint16(from + 2, true),
        sampleRate: view.getUint32(from + 4, true),
        bits: view.getUint16(from + 14, true),
      }
    }
    if (name === 'data') {
      if (!form) throw new FileProblem(`The WAV file has its sound before its description, at byte ${at}`)
      return soundOf(view, from, Math.min(from + length, bytes.length), form)
    }
    at = from + length + (length % 2)
  }
  throw new FileProblem('The WAV file has no sound in it: there is no part called data')
}

function soundOf(
  view: DataView,
  from: number,
  to: number,
  form: { coding: number; channels: number; sampleRate: number; bits: number },
): Sound {
  const { coding, channels, sampleRate, bits } = form
  if (channels < 1 || channels > mostChannels)
    throw new FileProblem(`The WAV file tells of ${channels} channels; 1 to ${mostChannels} can be read`)
  if (sampleRate < 4000 || sampleRate > 768_000)
    throw new FileProblem(
      `The WAV file tells of ${sampleRate} samples to the second; 4,000 to 768,000 can be read`,
    )
  const read = sampleReader(view, coding, bits)
  const bytesToSample = bits / 8
  const frames = Math.floor((to - from) / (bytesToSample * channels))
  if (frames === 0) throw new FileProblem('The WAV file has no sound in it: its data is empty')
  return {
    sampleRate,
    channels: Array.from({ length: channels }, (_, channel) => {
      const samples = new Float32Array(frames)
      for (let frame = 0; frame < frames; frame++) {
        const sample = read(from + (frame * channels + channel) * bytesToSample)
        samples[frame] = Number.isFinite(sample) ? sample : 0
      }
      return samples
    }),
  }
}

function sampleReader(view: DataView, coding: number, bits: number): (at: number) => number {
  if (coding === wholeNumbers && bits === 8) return (at) => (view.getUint8(at) - 128) / 128
  if (coding === wholeNumbers && bits === 16) return (at) => view.getInt16(at, true) / 0x8000
  if (coding === wholeNumbers && bits === 24)
    return (at) => (view.getInt8(at + 2) * 0x10000 + view.getUint16(at, true)) / 0x800000
  if (coding === wholeNumbers && bits === 32) return (at) => view.getInt32(at, true) / 0x80000000
  if (coding === floatingPoint && bits === 32) return (at) => view.getFloat32(at, true)
  if (coding === floatingPoint && bits === 64) return (at) => view.getFloat64(at, true)
  throw new FileProblem(
    `The WAV file is coded as kind ${coding} with ${bits} bits; whole numbers of 8 to 32 bits and floating point can be read`,
  )
}

/** All channels in one, none louder than it was. */
export function inOneChannel({ channels }: Sound): Float32Array {
  if (channels.length === 1) return channels[0]!
  const mixed = new Float32Array(channels[0]!.length)
  for (const channel of channels)
    for (let index = 0; index < mixed.length; index++) mixed[index]! += channel[index]! / channels.length
  return mixed
}
