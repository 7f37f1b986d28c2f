import { SoundBankLoader, SpessaSynthProcessor } from 'spessasynth_core'
import { bankId } from './banks'
import { commandFields, type TimedCommand } from './commands'

/** More parts than this share channels: far above any score that fits a screen. */
export const mostSynthChannels = 520

/**
 * Sampled instruments that act on commands to the very sample: a block is rendered in pieces that end where the next
 * command is due. Runs in the audio worklet and, for tests and bench, in Node.
 */
export class SampledSynth {
  private readonly processor: SpessaSynthProcessor
  private readonly banks = new Set<string>()
  private readonly instruments = new Map<number, number | 'drums'>()
  private queue: TimedCommand[] = []
  /** So long nothing was heard, in frames. */
  private quietFrames = 0
  private isSorted = true
  private readonly sounding = new Map<number, Set<number>>()

  /** @param decodesAhead whether samples are decoded when a bank comes, and not at the first note that needs them */
  constructor(
    private readonly sampleRate: number,
    initialSeconds = 0,
    private readonly decodesAhead = true,
  ) {
    this.processor = new SpessaSynthProcessor(sampleRate, {
      eventsEnabled: false,
      effectsEnabled: true,
      maxBufferSize: 128,
      initialTime: initialSeconds,
    })
  }

  get voiceCount(): number {
    return this.processor.voiceCount
  }

  ready(): Promise<void> {
    return this.processor.processorInitialized
  }

  /** Takes in a bank. Its samples are decoded at once, so that the first note of an instrument costs no time. */
  addBank(id: string, bytes: ArrayBuffer): void {
    if (this.banks.has(id)) return
    const bank = SoundBankLoader.fromArrayBuffer(bytes)
    if (this.decodesAhead) for (const sample of bank.samples) sample.getAudioData()
    this.processor.soundBankManager.addSoundBank(bank, id)
    this.banks.add(id)
    // With each bank the library gives every channel a sound of the first one that is there: all have to be set again.
    for (const [channel, instrument] of this.instruments)
      if (this.banks.has(bankId(instrument))) this.applyInstrument(channel, instrument)
  }

  setInstrument(channel: number, instrument: number | 'drums'): void {
    this.ensureChannel(channel)
    this.instruments.set(channel, instrument)
    if (this.banks.has(bankId(instrument))) this.applyInstrument(channel, instrument)
  }

  /**
   * @param pan −1 left to 1 right
   * @param tuningCents how much higher than written it sounds
   */
  setLevel(channel: number, volume: number, pan: number, tuningCents = 0): void {
    this.ensureChannel(channel)
    this.processor.midiChannels[channel]!.setSystemParameter('fineTune', tuningCents)
    this.processor.controllerChange(channel, 7, Math.round(volume * 127))
    this.processor.controllerChange(channel, 10, Math.round(64 + pan * 63))
  }

  schedule(command: TimedCommand): void {
    const last = this.queue.at(-1)
    if (last && last.atSeconds > command.atSeconds) this.isSorted = false
    this.queue.push(command)
  }

  scheduleRows(rows: Float64Array): void {
    for (let row = 0; row < rows.length; row += commandFields)
      this.schedule({
        atSeconds: rows[row]!,
        synthChannel: rows[row + 1]!,
        status: rows[row + 2]!,
        data1: rows[row + 3]!,
        data2: rows[row + 4]!,
      })
  }

  /** Forgets what is scheduled and ends what sounds, on some channels or all. */
  cancel(channels?: readonly number[]): void {
    this.queue = channels ? this.queue.filter((command) => !channels.includes(command.synthChannel)) : []
    for (const [channel, keys] of this.sounding) {
      if (channels && !channels.includes(channel)) continue
      for (const key of keys) this.processor.noteOff(channel, key)
      keys.clear()
    }
  }

  /**
   * Fills a stereo block.
   *
   * @param blockSeconds audio time of its first frame
   */
  render(left: Float32Array, right: Float32Array, blockSeconds: number): void {
    if (this.isSilent(left.length, blockSeconds)) return
    if (!this.isSorted) {
      // Stable, so that commands for one moment keep their order.
      this.queue.sort((a, b) => a.atSeconds - b.atSeconds)
      this.isSorted = true
    }
    const frames = left.length
    let done = 0
    let taken = 0
    for (; taken < this.queue.length; taken++) {
      const command = this.queue[taken]!
      const frame = Math.round((command.atSeconds - blockSeconds) * this.sampleRate)
      if (frame >= frames) break
      if (frame > done) {
        this.processor.process(left, right, done, frame - done)
        done = frame
      }
      this.execute(command)
    }
    if (taken > 0) this.queue.splice(0, taken)
    if (done < frames) this.processor.process(left, right, done, frames - done)
    const isQuiet = taken === 0 && this.voiceCount === 0 && isBelowHearing(left) && isBelowHearing(right)
    this.quietFrames = isQuiet ? this.quietFrames + frames : 0
  }

  /** Nothing sounds, what rang on has died away, and nothing is to come. */
  get isAtRest(): boolean {
    return this.quietFrames >= this.sampleRate && this.queue.length === 0
  }

  /** Nothing sounds, what rang on has died away, and nothing comes in this block: it stays as empty as it is given. */
  private isSilent(frames: number, blockSeconds: number): boolean {
    if (this.quietFrames < this.sampleRate) return false
    const [next] = this.queue
    if (!next) return true
    return this.isSorted && Math.round((next.atSeconds - blockSeconds) * this.sampleRate) >= frames
  }

  private execute({ synthChannel, status, data1, data2 }: TimedCommand): void {
    this.ensureChannel(synthChannel)
    const isOn = (status & 0xf0) === 0x90 && data2 > 0
    switch (status & 0xf0) {
      case 0x80:
      case 0x90:
        if (isOn) {
          this.soundingOn(synthChannel).add(data1)
          this.processor.noteOn(synthChannel, data1, data2)
        } else {
          this.soundingOn(synthChannel).delete(data1)
          this.processor.noteOff(synthChannel, data1)
        }
        return
      case 0xa0:
        this.processor.polyPressure(synthChannel, data1, data2)
        return
      case 0xb0:
        this.processor.controllerChange(
          synthChannel,
          data1 as Parameters<SpessaSynthProcessor['controllerChange']>[1],
          data2,
        )
        return
      case 0xc0:
        this.changeProgram(synthChannel, data1)
        return
      case 0xd0:
        this.processor.channelPressure(synthChannel, data1)
        return
      case 0xe0:
        this.processor.pitchWheel(synthChannel, data1 | (data2 << 7))
    }
  }

  private soundingOn(channel: number): Set<number> {
    let keys = this.sounding.get(channel)
    if (!keys) {
      keys = new Set()
      this.sounding.set(channel, keys)
    }
    return keys
  }

  private ensureChannel(channel: number): void {
    const { midiChannels } = this.processor
    while (midiChannels.length <= channel && midiChannels.length < mostSynthChannels) {
      this.processor.createMIDIChannel()
      // A new channel comes with all controllers at zero, silent for want of expression. The library's own reset, which its
      // types leave out, puts them where they begin.
      ;(midiChannels.at(-1) as unknown as { reset(): void }).reset()
    }
  }

  /** A program inside a track: its bank sounds as soon as it is there. A kit stays a kit. */
  private changeProgram(channel: number, program: number): void {
    if (this.instruments.get(channel) === 'drums') return
    this.setInstrument(channel, program)
  }

  private applyInstrument(channel: number, instrument: number | 'drums'): void {
    const target = this.processor.midiChannels[channel]!
    target.setDrums(instrument === 'drums')
    this.processor.programChange(channel, instrument === 'drums' ? 0 : instrument)
  }
}

/** 100 dB beneath full scale. */
const leastHeard = 1e-5

function isBelowHearing(samples: Float32Array): boolean {
  for (let frame = 0; frame < samples.length; frame++)
    if (Math.abs(samples[frame]!) > leastHeard) return false
  return true
}
