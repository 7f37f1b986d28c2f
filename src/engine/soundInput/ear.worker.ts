import { Ear } from '@/core/pitch/ear'
import type { FollowedMessage } from '@/core/pitch/followedMidi'
import type { SoundInput } from '@/core/pitch/soundInput'
import { type ClockSample, epochNowMs } from '../clock'
import type { FromEar, SoundPiece, ToEar } from './earProtocol'
import { InputClock } from './inputClock'
import { SoundCutter } from './soundCutter'

const pictureEveryMs = 40
/** A note that was begun before a moment is known at most this much later. */
const knownAfterMs = 120
/** Where no sound comes any more, nothing is waited for. */
const longestWaitMs = 500

/** One input, followed in a thread of its own: sound comes from the audio thread, notes go to the window. */
class Listening {
  private ear: Ear
  private readonly clock: InputClock
  /** All sound so far, and how much of it was there when this ear began. */
  private heardMs = 0
  private earSinceMs = 0
  private contextSeconds = 0
  private readonly cutter: SoundCutter
  private isKeeping = false
  private readonly waiting: { readonly untilEpochMs: number; readonly sinceMs: number }[] = []
  private readonly timer = setInterval(() => this.tellPicture(), pictureEveryMs)

  constructor(
    port: MessagePort,
    keeper: MessagePort,
    portId: string,
    private readonly deviceRate: number,
    latencyMs: number,
    private input: SoundInput,
  ) {
    this.ear = new Ear(deviceRate, input)
    this.clock = new InputClock(latencyMs)
    const epochMsOf = (soundMs: number) => this.clock.epochMsOf(soundMs)
    this.cutter = new SoundCutter(
      portId,
      deviceRate,
      epochMsOf,
      (sound) => keeper.postMessage(sound, [sound.samples.buffer]),
      (lostMs) => tell({ type: 'gap', lostMs }),
    )
    port.onmessage = ({ data }: MessageEvent<SoundPiece>) => this.hear(data)
  }

  private hear({ samples, contextSeconds }: SoundPiece): void {
    const seconds = samples.length / this.deviceRate
    this.heardMs += seconds * 1000
    this.contextSeconds = contextSeconds + seconds
    this.clock.arrived(this.heardMs, epochNowMs())
    this.send(this.ear.push(samples))
    if (this.isKeeping) {
      const since = this.earSinceMs
      this.cutter.push(
        samples,
        this.ear.latestFrames.map((frame) => ({ ...frame, timeMs: frame.timeMs + since })),
      )
    } else this.cutter.skip(samples.length)
    this.answer()
  }

  change(input: SoundInput): void {
    const { isTuning } = this.ear
    this.send(this.ear.end())
    this.input = input
    this.earSinceMs = this.heardMs
    this.ear = new Ear(this.deviceRate, this.input)
    this.ear.isTuning = isTuning
  }

  tune(isOn: boolean): void {
    this.ear.isTuning = isOn
  }

  keep(isOn: boolean): void {
    if (this.isKeeping && !isOn) this.cutter.cut()
    this.isKeeping = isOn
  }

  settle(): void {
    this.waiting.push({ untilEpochMs: epochNowMs() + knownAfterMs, sinceMs: epochNowMs() })
  }

  lose(): void {
    clearInterval(this.timer)
    this.cutter.cut()
    this.send(this.ear.end())
    for (const _each of this.waiting) tell({ type: 'settled' })
    this.waiting.length = 0
    tell({ type: 'ended' })
  }

  private answer(): void {
    const nowMs = epochNowMs()
    while (this.waiting[0]) {
      const { untilEpochMs, sinceMs } = this.waiting[0]
      const isHeard = this.heardMs > 0 && this.clock.epochMsOf(this.heardMs) >= untilEpochMs
      if (!isHeard && nowMs - sinceMs < longestWaitMs) return
      this.waiting.shift()
      tell({ type: 'settled' })
    }
  }

  private send(messages: readonly FollowedMessage[]): void {
    if (messages.length === 0) return
    tell({
      type: 'messages',
      messages: messages.map(({ timeMs, bytes }) => ({
        epochMs: this.clock.epochMsOf(this.earSinceMs + timeMs),
        bytes,
      })),
    })
  }

  private tellPicture(): void {
    this.answer()
    if (this.heardMs === 0) return
    const clock: ClockSample = {
      contextSeconds: this.contextSeconds,
      epochMs: this.clock.epochMsOf(this.heardMs),
    }
    tell({ type: 'picture', picture: this.ear.picture(), clock })
  }
}

let listening: Listening | null = null

function tell(message: FromEar): void {
  self.postMessage(message)
}

self.onmessage = ({ data }: MessageEvent<ToEar>) => {
  switch (data.type) {
    case 'listen':
      listening = new Listening(
        data.port,
        data.keeper,
        data.portId,
        data.deviceRate,
        data.latencyMs,
        data.input,
      )
      return
    case 'keep':
      listening?.keep(data.isOn)
      return
    case 'input':
      listening?.change(data.input)
      return
    case 'tune':
      listening?.tune(data.isOn)
      return
    case 'settle':
      if (listening) listening.settle()
      else tell({ type: 'settled' })
      return
    case 'lost':
      if (listening) listening.lose()
      else tell({ type: 'ended' })
  }
}
