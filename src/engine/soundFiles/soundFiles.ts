import {
  peakOf,
  type SampleBits,
  type SampleRate,
  type SoundForm,
  type Stereo,
  writeWav,
} from '@/core/sound/wav'
import type { Milliseconds } from '@/core/time/units'
import type { ToEngine } from '../protocol'
import { oggEncoder } from './encodeOgg'
import { playedThrough } from './playedThrough'
import { type ChannelSound, renderSound } from './renderSound'

/** A piece as it is to be rendered. */
export interface SoundOrder {
  /** As a live engine is told of it. */
  readonly messages: readonly ToEngine[]
  readonly lastsMs: Milliseconds
  readonly channels: readonly ChannelSound[]
  /** Tracks that have a file each, by channel; none when only the whole is wanted. */
  readonly stems: readonly { readonly name: string; readonly synthChannel: number }[]
  readonly name: string
  readonly sampleRate: SampleRate
  readonly form: SoundForm
  /** Of a WAV file. */
  readonly bits: SampleBits
}

/** What is fetched where it is needed. */
export interface SoundMaterial {
  readonly bankOf: (id: string) => Promise<ArrayBuffer>
  /** The program of the encoder for Ogg Vorbis. */
  readonly oggWasm: () => Promise<ArrayBuffer>
}

/** A file that is written. */
export interface SoundFile {
  readonly name: string
  readonly bytes: Uint8Array
  /** Of its largest sample, in decibels of full scale: negative, or minus infinity for silence. */
  readonly peakDb: number
}

/** What is to be said of all files together. */
export interface SoundAccount {
  /** Of each file. */
  readonly seconds: number
  /** How much softer they were made, so that nothing is beyond full scale. */
  readonly softerDb: number
  /** Largest sample by which all tracks together differ from the whole, in decibels of full scale; null without tracks. */
  readonly sumDiffersDb: number | null
}

/** Where something would be beyond full scale, the loudest is this. */
const highestPeak = 0.98

/** Longer pieces find no room in memory. */
const longestMs: Milliseconds = 3_600_000

/** Status of a command that does nothing. */
const nothing = 0

/**
 * Renders a piece, and each of its tracks, into files that begin with the first bar and are of one length: one after another, so that
 * no more of them are in memory than have to be.
 *
 * @param onFile is given each file: the whole first; all of them again where a track turns out louder than the whole allowed for
 * @throws RangeError when the piece is longer than an hour
 */
export async function renderSoundFiles(
  { messages, lastsMs, channels, stems, name, sampleRate, form, bits }: SoundOrder,
  { bankOf, oggWasm }: SoundMaterial,
  onFile: (file: SoundFile, index: number) => void,
  onSeconds: (done: number) => void = () => {},
): Promise<SoundAccount> {
  if (lastsMs > longestMs)
    throw new RangeError(`it lasts ${Math.ceil(lastsMs / 60_000)} minutes; up to 60 can be rendered`)
  const encode = form === 'ogg' ? await oggEncoder(await oggWasm()) : null
  const commands = playedThrough(messages, lastsMs)
  let doneBefore = 0
  const render = async (synthChannel: number | null): Promise<Stereo> => {
    const isHere = (one: { readonly synthChannel: number }) =>
      synthChannel === null || one.synthChannel === synthChannel
    const sound = await renderSound(
      // The synthesiser works in pieces that end where something is due: so that all files add up, each keeps all places.
      commands.map((command) => (isHere(command) ? command : { ...command, status: nothing })),
      channels.filter(isHere),
      bankOf,
      sampleRate,
      (seconds) => onSeconds(doneBefore + seconds),
    )
    doneBefore += sound.left.length / sampleRate
    return sound
  }
  const whole = await render(null)
  const frames = whole.left.length
  const write = (sound: Stereo, own: string, gain: number, index: number) => {
    const heard = gain === 1 ? sound : louder(sound, gain)
    const bytes = encode ? encode(heard, sampleRate) : writeWav(heard, sampleRate, bits)
    onFile({ name: own, bytes, peakDb: decibels(peakOf(heard)) }, index)
  }
  let peak = peakOf(whole)
  for (;;) {
    const gain = peak > highestPeak ? highestPeak / peak : 1
    write(whole, name, gain, 0)
    const left = { left: Float32Array.from(whole.left), right: Float32Array.from(whole.right) }
    let loudest = peak
    for (const [index, stem] of stems.entries()) {
      const sound = asLong(await render(stem.synthChannel), frames)
      loudest = Math.max(loudest, peakOf(sound))
      if (loudest * gain > 1) break
      takeAway(left, sound)
      write(sound, stem.name, gain, index + 1)
    }
    // A track can be louder than the whole, where others go against it: then all are made softer for its sake.
    if (loudest * gain > 1) {
      peak = loudest
      continue
    }
    return {
      seconds: frames / sampleRate,
      softerDb: gain === 1 ? 0 : -decibels(gain),
      sumDiffersDb: stems.length === 0 ? null : decibels(peakOf(left) * gain),
    }
  }
}

/** As long as the whole: what a track rings on beyond it is softer than anything that can be written. */
function asLong({ left, right }: Stereo, frames: number): Stereo {
  const fitted = (channel: Float32Array) => {
    if (channel.length >= frames) return channel.subarray(0, frames)
    const longer = new Float32Array(frames)
    longer.set(channel)
    return longer
  }
  return { left: fitted(left), right: fitted(right) }
}

function louder({ left, right }: Stereo, gain: number): Stereo {
  return { left: left.map((sample) => sample * gain), right: right.map((sample) => sample * gain) }
}

/** Takes a sound away from another, in place. */
function takeAway(from: Stereo, sound: Stereo): void {
  for (let frame = 0; frame < from.left.length; frame++) {
    from.left[frame]! -= sound.left[frame]!
    from.right[frame]! -= sound.right[frame]!
  }
}

const decibels = (ratio: number) => (ratio === 0 ? Number.NEGATIVE_INFINITY : 20 * Math.log10(ratio))
