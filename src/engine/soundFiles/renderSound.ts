import type { SampleRate, Stereo } from '@/core/sound/wav'
import { bankId } from '../synth/banks'
import type { TimedCommand } from '../synth/commands'
import { SampledSynth } from '../synth/sampledSynth'

/** How a channel of the synthesiser sounds. */
export interface ChannelSound {
  readonly synthChannel: number
  readonly instrument: number | 'drums'
  readonly volume: number
  readonly pan: number
  readonly tuningCents: number
  /** Programs that it changes to on the way. */
  readonly programs: readonly number[]
}

const blockFrames = 128
/** What is softer than this for a while is silence: far below what 16 bits can say. */
const silentBelow = 2e-6
const silentSeconds = 0.3
/** What rings on longer than this behind the last note is cut. */
const longestRingingSeconds = 15
const progressEverySeconds = 1

/**
 * Renders a piece as fast as it goes, with the same instruments and mixer as it is heard with, until nothing rings any more.
 *
 * @param bankOf gives the instruments that are needed, by id
 * @param onSeconds is told how many seconds are done
 */
export async function renderSound(
  commands: readonly TimedCommand[],
  channels: readonly ChannelSound[],
  bankOf: (id: string) => Promise<ArrayBuffer>,
  sampleRate: SampleRate,
  onSeconds: (done: number) => void = () => {},
): Promise<Stereo> {
  const synth = new SampledSynth(sampleRate)
  await synth.ready()
  for (const { synthChannel, instrument, volume, pan, tuningCents, programs } of channels) {
    synth.setInstrument(synthChannel, instrument)
    synth.setLevel(synthChannel, volume, pan, tuningCents)
    for (const wanted of [instrument, ...programs]) {
      const id = bankId(wanted)
      synth.addBank(id, await bankOf(id))
    }
  }
  for (const command of commands) synth.schedule(command)
  const lastSeconds = commands.reduce((last, { atSeconds }) => Math.max(last, atSeconds), 0)
  const mostFrames =
    Math.ceil(((lastSeconds + longestRingingSeconds) * sampleRate) / blockFrames) * blockFrames
  const [left, right] = [new Float32Array(mostFrames), new Float32Array(mostFrames)]
  let frames = 0
  let silentFrames = 0
  let toldSeconds = 0
  while (frames < mostFrames) {
    const seconds = frames / sampleRate
    if (seconds > lastSeconds && silentFrames / sampleRate > silentSeconds) break
    const block = {
      left: left.subarray(frames, frames + blockFrames),
      right: right.subarray(frames, frames + blockFrames),
    }
    synth.render(block.left, block.right, seconds)
    frames += blockFrames
    silentFrames = isSilent(block) ? silentFrames + blockFrames : 0
    if (seconds - toldSeconds >= progressEverySeconds) {
      toldSeconds = seconds
      onSeconds(seconds)
    }
  }
  return { left: left.subarray(0, frames), right: right.subarray(0, frames) }
}

function isSilent({ left, right }: Stereo): boolean {
  for (let frame = 0; frame < left.length; frame++)
    if (Math.abs(left[frame]!) > silentBelow || Math.abs(right[frame]!) > silentBelow) return false
  return true
}
