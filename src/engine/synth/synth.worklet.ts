import type { SynthMessage, SynthOptions, SynthReport } from './commands'
import { SampledSynth } from './sampledSynth'

/** Blocks between two level reports: about 30 a second. */
const blocksPerReport = 12

/** The synthesiser on the audio thread. The window gives it instruments, the engine worker gives it notes. */
class SynthWorklet extends AudioWorkletProcessor {
  private readonly synth: SampledSynth
  private isMeasuring = false
  private peakLeft = 0
  private peakRight = 0
  private blocks = 0
  private isSilenceTold = false

  constructor({ processorOptions }: { readonly processorOptions: SynthOptions }) {
    super()
    this.synth = new SampledSynth(sampleRate, currentTime, processorOptions.decodesAhead)
    this.port.onmessage = (event: MessageEvent<SynthMessage>) => this.receive(event.data)
  }

  private receive(message: SynthMessage): void {
    switch (message.type) {
      case 'commands':
        this.synth.scheduleRows(message.rows)
        if (this.isMeasuring)
          for (let row = 0; row < message.rows.length; row += 5)
            if (message.rows[row] === 0)
              this.report({ type: 'arrived', epochMs: Date.now(), key: message.rows[row + 3]! })
        return
      case 'cancel':
        this.synth.cancel(message.synthChannels)
        return
      case 'bank':
        this.addBank(message.id, message.bytes)
        return
      case 'instrument':
        this.synth.setInstrument(message.synthChannel, message.instrument)
        return
      case 'level':
        this.synth.setLevel(message.synthChannel, message.volume, message.pan, message.tuningCents)
        return
      case 'measure':
        this.isMeasuring = message.isOn
        return
      case 'connect':
        message.port.onmessage = (event: MessageEvent<SynthMessage>) => this.receive(event.data)
    }
  }

  private addBank(id: string, bytes: ArrayBuffer): void {
    this.synth.ready().then(
      () => {
        try {
          this.synth.addBank(id, bytes)
          this.report({ type: 'bankReady', id })
        } catch (error) {
          this.report({ type: 'bankFailed', id, reason: String(error) })
        }
      },
      (error) => this.report({ type: 'bankFailed', id, reason: String(error) }),
    )
  }

  private report(report: SynthReport): void {
    this.port.postMessage(report)
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0]!
    if (!left || !right) return true
    this.synth.render(left, right, currentTime)
    for (let frame = 0; frame < left.length; frame += 4) {
      this.peakLeft = Math.max(this.peakLeft, Math.abs(left[frame]!))
      this.peakRight = Math.max(this.peakRight, Math.abs(right[frame]!))
    }
    if (++this.blocks >= blocksPerReport) {
      const isSilent = this.peakLeft + this.peakRight + this.synth.voiceCount === 0
      // Silence is told once.
      if (!isSilent || !this.isSilenceTold)
        this.report({
          type: 'peak',
          left: this.peakLeft,
          right: this.peakRight,
          voices: this.synth.voiceCount,
        })
      this.isSilenceTold = isSilent
      this.blocks = 0
      this.peakLeft = 0
      this.peakRight = 0
    }
    return true
  }
}

registerProcessor('unbroken-synth', SynthWorklet)
