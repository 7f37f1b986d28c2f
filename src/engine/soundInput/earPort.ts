import type { EarPicture } from '@/core/pitch/ear'
import type { SoundInput } from '@/core/pitch/soundInput'
import type { Milliseconds } from '@/core/time/units'
import { type ClockSample, clockName, contextSecondsAt } from '../clock'
import type { MidiInputPort } from '../midiInput/midiInputs'
import { PlayedMessageEvent } from '../midiInput/playedMessage'
import type { FromEar, ToEar, ToEarWorklet } from './earProtocol'
import type { OpenSoundDevice } from './soundDevice'

/**
 * An open input of sound as a MIDI port: notes come out of it, with the moments at which they were played. The sound goes from the audio
 * thread straight to a thread that follows it; the window only hands notes on, as for every port.
 */
export class EarPort extends EventTarget implements MidiInputPort {
  readonly state = 'connected' as const
  private readonly worker: Worker
  private readonly node: AudioWorkletNode
  private readonly settling: (() => void)[] = []
  private ended: (() => void) | null = null
  private clock: ClockSample | null = null

  /**
   * @param context in which `ear.worklet` is there
   * @param onPicture about 25 times a second
   * @param onGap so much of the sound never arrived
   * @param onFailure the thread that follows has failed
   */
  constructor(
    readonly id: string,
    readonly name: string,
    context: AudioContext,
    private readonly device: OpenSoundDevice,
    input: SoundInput,
    /** To the thread that keeps the sound. */
    keeper: MessagePort,
    private readonly onPicture: (picture: EarPicture) => void,
    private readonly onGap: (lostMs: Milliseconds) => void,
    onFailure: (reason: string) => void,
  ) {
    super()
    this.worker = new Worker(new URL('./ear.worker.ts', import.meta.url), {
      type: 'module',
      name: clockName,
    })
    this.worker.onmessage = ({ data }: MessageEvent<FromEar>) => this.receive(data)
    this.worker.onerror = (event) => {
      event.preventDefault()
      onFailure(event.message)
    }
    this.node = new AudioWorkletNode(context, 'unbroken-ear', {
      numberOfOutputs: 0,
      channelCountMode: 'max',
      channelInterpretation: 'discrete',
    })
    const { port1, port2 } = new MessageChannel()
    this.tellWorklet({ type: 'connect', port: port1 }, [port1])
    const { latencyMs } = device
    const deviceRate = context.sampleRate
    this.tell({ type: 'listen', port: port2, keeper, portId: id, deviceRate, latencyMs, input }, [
      port2,
      keeper,
    ])
    this.change(input)
    device.node.connect(this.node)
  }

  change(input: SoundInput): void {
    this.tellWorklet({ type: 'channel', channel: input.inputChannel })
    this.tell({ type: 'input', input })
  }

  keep(isOn: boolean): void {
    this.tell({ type: 'keep', isOn })
  }

  tune(isOn: boolean): void {
    this.tell({ type: 'tune', isOn })
  }

  /** Resolves when everything that was played until now has been sent. */
  settled(): Promise<void> {
    return new Promise((resolve) => {
      this.settling.push(resolve)
      this.tell({ type: 'settle' })
    })
  }

  readonly contextSecondsAt = (epochMs: number): number | null =>
    this.clock && contextSecondsAt(this.clock, epochMs)

  /** Ends it; resolves when its last notes have been sent. */
  async close(): Promise<void> {
    this.device.node.disconnect(this.node)
    this.tellWorklet({ type: 'end' })
    await new Promise<void>((resolve) => {
      this.ended = resolve
      this.tell({ type: 'lost' })
      setTimeout(resolve, 1000)
    })
    this.worker.terminate()
    this.device.close()
    for (const resolve of this.settling.splice(0)) resolve()
  }

  private receive(message: FromEar): void {
    switch (message.type) {
      case 'messages':
        for (const { epochMs, bytes } of message.messages)
          this.dispatchEvent(new PlayedMessageEvent(Uint8Array.from(bytes), epochMs))
        return
      case 'picture':
        this.clock = message.clock
        this.onPicture(message.picture)
        return
      case 'settled':
        this.settling.shift()?.()
        return
      case 'gap':
        this.onGap(message.lostMs)
        return
      case 'ended':
        this.ended?.()
    }
  }

  private tell(message: ToEar, transfer: Transferable[] = []): void {
    this.worker.postMessage(message, transfer)
  }

  private tellWorklet(message: ToEarWorklet, transfer: Transferable[] = []): void {
    this.node.port.postMessage(message, transfer)
  }
}
