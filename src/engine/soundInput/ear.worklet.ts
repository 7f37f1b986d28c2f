import type { SoundPiece, ToEarWorklet } from './earProtocol'

/** On the audio thread: hands one channel of an input to the thread that listens to it, block by block. */
class EarWorklet extends AudioWorkletProcessor {
  private listener: MessagePort | null = null
  private channel = 0
  private isOver = false

  constructor() {
    super()
    this.port.onmessage = ({ data }: MessageEvent<ToEarWorklet>) => {
      if (data.type === 'connect') this.listener = data.port
      else if (data.type === 'channel') this.channel = data.channel - 1
      else this.isOver = true
    }
  }

  process([channels]: Float32Array[][]): boolean {
    if (this.isOver) return false
    // An input that is silent for itself comes without channels; one that has fewer than asked for is silence too.
    const block = channels?.[this.channel]
    const samples = block ? Float32Array.from(block) : new Float32Array(channels?.[0]?.length ?? 128)
    const piece: SoundPiece = { samples, contextSeconds: currentTime }
    this.listener?.postMessage(piece, [samples.buffer])
    return true
  }
}

registerProcessor('unbroken-ear', EarWorklet)
