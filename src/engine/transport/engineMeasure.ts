import type { Milliseconds } from '@/core/time/units'
import type { SourceEvent } from '../protocol'

export interface MeasuredDelays {
  /** From the moment the engine took a note-on to its synthesiser command being handed over. */
  readonly inEngineMs: Milliseconds[]
  /** The same from the time stamp of its source. */
  readonly fromSourceMs: Milliseconds[]
}

/** How long note-ons take through the engine, while that is asked for. */
export class EngineMeasure {
  private delays: MeasuredDelays | null = null
  private receivedMs: Milliseconds = 0

  constructor(private readonly nowMs: () => Milliseconds) {}

  /** Begins or ends measuring. @returns what was measured until now */
  switch(isOn: boolean): MeasuredDelays {
    const measured = this.delays ?? { inEngineMs: [], fromSourceMs: [] }
    this.delays = isOn ? { inEngineMs: [], fromSourceMs: [] } : null
    return measured
  }

  /** Events are taken now. */
  receive(): void {
    if (this.delays) this.receivedMs = this.nowMs()
  }

  /** Their commands have been handed over. */
  done(events: readonly SourceEvent[]): void {
    if (!this.delays) return
    const nowMs = this.nowMs()
    for (const { status, timeMs } of events) {
      if ((status & 0xf0) !== 0x90) continue
      this.delays.inEngineMs.push(nowMs - this.receivedMs)
      this.delays.fromSourceMs.push(nowMs - timeMs)
    }
  }
}
