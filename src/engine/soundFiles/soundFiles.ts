import { peakOf, type SampleBits, type SampleRate, type Stereo, writeWav } from '@/core/sound/wav'
import type { Milliseconds } from '@/core/time/units'
import type { ToEngine } from '../protocol'
import { playedThrough } from './playedThrough'
import { type ChannelSound, fitted, renderSound } from './renderSound'

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
  readonly bits: SampleBits
}

export interface SoundFile {
  readonly name: string
  readonly bytes: Uint8Array
  /** Of its largest sample, in decibels below full scale. */
  readonly peakDb: number
}

export interface RenderedSound {
  /** The whole first, then a file for each track: all of one length. */
  readonly files: readonly SoundFile[]
  readonly seconds: number
  /** How much softer it was made, so that nothing is beyond full scale. */
  readonly softerDb: number
  /** Largest sample of what all tracks together differ by from the whole, in decibels below full scale; null without tracks. */
  readonly sumDiffersDb: number | null
}

/** Status of a command that does nothing. */
const nothing = 0

/** Where something would be beyond full scale, the loudest is this. */
const highestPeak = 0.98

/** Renders a piece, and each of its tracks, into files that begin with the first bar and are of one length. */
export async function renderSoundFiles(
  { messages, lastsMs, channels, stems, name, sampleRate, bits }: SoundOrder,
  bankOf: (id: string) => Promise<ArrayBuffer>,
  onSeconds: (done: number) => void = () => {},
): Promise<RenderedSound> {
  const commands = playedThrough(messages, lastsMs)
  let doneBefore = 0
  const render = async (synthChannels: ReadonlySet<number> | null): Promise<Stereo> => {
    const isHere = ({ synthChannel }: { readonly synthChannel: number }) =>
      synthChannels === null || synthChannels.has(synthChannel)
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
  const parts: Stereo[] = []
  for (const { synthChannel } of stems) parts.push(await render(new Set([synthChannel])))
  const frames = Math.max(whole.left.length, ...parts.map(({ left }) => left.length))
  const peak = Math.max(peakOf(whole), ...parts.map(peakOf))
  const gain = peak > highestPeak ? highestPeak / peak : 1
  const sounds = [whole, ...parts].map((sound) => fitted(sound, frames, gain))
  const names = [name, ...stems.map((stem) => stem.name)]
  return {
    files: sounds.map((sound, index) => ({
      name: names[index]!,
      bytes: writeWav(sound, sampleRate, bits),
      peakDb: decibels(peakOf(sound)),
    })),
    seconds: frames / sampleRate,
    softerDb: -decibels(gain),
    sumDiffersDb: parts.length === 0 ? null : decibels(peakOf(difference(sounds[0]!, sounds.slice(1)))),
  }
}

function difference(whole: Stereo, parts: readonly Stereo[]): Stereo {
  const left = Float32Array.from(whole.left)
  const right = Float32Array.from(whole.right)
  for (const part of parts)
    for (let frame = 0; frame < left.length; frame++) {
      left[frame]! -= part.left[frame]!
      right[frame]! -= part.right[frame]!
    }
  return { left, right }
}

const decibels = (ratio: number) => (ratio === 0 ? Number.NEGATIVE_INFINITY : 20 * Math.log10(ratio))
