import { clockStatus, songPositionBytes, ticksPerClock } from '@/core/midi/clock'
import type { Milliseconds, Ticks } from '@/core/time/units'
import type { PortSender } from './portSender'
import type { PassWindow, Timeline } from './timeline'

const owner = 'clock'

/** Sends MIDI clock, start, continue, stop and song position to the ports that are to follow. */
export class ClockSender {
  constructor(private readonly sender: PortSender) {}

  /** Position and start: from the beginning "start", from elsewhere "continue". A little before the first clock. */
  begin(portIds: readonly string[], fromTicks: Ticks, startedAtMs: Milliseconds): void {
    for (const portId of portIds) {
      this.sender.add(owner, portId, startedAtMs - 2, songPositionBytes(fromTicks))
      this.sender.add(owner, portId, startedAtMs - 1, [
        fromTicks === 0 ? clockStatus.start : clockStatus.continue,
      ])
    }
  }

  /** The clocks of a stretch, 24 to the quarter. In a further pass of a loop the count runs on, as followers expect. */
  window(portIds: readonly string[], window: PassWindow, timeline: Timeline): void {
    if (portIds.length === 0) return
    const first = Math.ceil(window.fromTicks / ticksPerClock) * ticksPerClock
    for (let ticks = first; ticks < window.toTicks; ticks += ticksPerClock) {
      const timeMs = timeline.msAt({ pass: window.pass, ticks })
      for (const portId of portIds) this.sender.add(owner, portId, timeMs, [clockStatus.clock])
    }
  }

  stop(portIds: readonly string[], nowMs: Milliseconds): void {
    this.sender.silence(nowMs, owner)
    for (const portId of portIds) this.sender.add(owner, portId, nowMs, [clockStatus.stop])
  }
}
