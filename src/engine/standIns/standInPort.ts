import type { PerformedMessage } from '@/core/capture/performer'
import { clockName } from '../clock'
import type { MidiInputPort } from '../midiInput/midiInputs'
import { PlayedMessageEvent } from '../midiInput/playedMessage'
import type { StandInMessage, ToStandIns } from './standIn.worker'

/**
 * A MIDI port with people at the other end who are not really there. It has the shape of a W3C `MIDIInput`, so that
 * what it sends takes the same path as what a real port sends. The players sit in a worker of their own, as devices
 * have clocks of their own.
 */
export class StandInPort extends EventTarget implements MidiInputPort {
  readonly state = 'connected' as const
  private readonly worker: Worker

  constructor(
    readonly id: string,
    readonly name: string,
  ) {
    super()
    this.worker = new Worker(new URL('./standIn.worker.ts', import.meta.url), {
      type: 'module',
      name: clockName,
    })
    this.worker.onmessage = (event: MessageEvent<StandInMessage>) => {
      const { epochMs, bytes } = event.data
      this.dispatchEvent(new PlayedMessageEvent(Uint8Array.from(bytes), epochMs))
    }
  }

  /** @param startMs the moment of the first beat, on the epoch clock */
  perform(startMs: number, messages: readonly PerformedMessage[]): void {
    this.tell({ type: 'perform', startMs, messages })
  }

  stop(): void {
    this.tell({ type: 'stop' })
  }

  dispose(): void {
    this.worker.terminate()
  }

  private tell(message: ToStandIns): void {
    this.worker.postMessage(message)
  }
}
