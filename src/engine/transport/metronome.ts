import type { ClickStroke } from '@/core/capture/click'
import type { Milliseconds } from '@/core/time/units'
import type { EngineNow } from './engineNow'
import type { Outlet } from './outlet'
import type { PortSender } from './portSender'

/** A stroke's note-off follows its note-on. */
const strokeMs: Milliseconds = 50
const owner = 'click'

/** Strikes the click, here or at the port that is chosen for it. */
export class Metronome {
  constructor(
    private readonly now: EngineNow,
    private readonly outlet: Outlet,
    private readonly sender: PortSender,
  ) {}

  strike(atMs: Milliseconds, { key, velocity }: Pick<ClickStroke, 'key' | 'velocity'>): void {
    const { click, clickSynthChannel } = this.now.setup
    if (click.portId === null) {
      this.outlet.strike(clickSynthChannel, atMs, key, velocity)
      return
    }
    const nibble = click.channel - 1
    this.sender.add(owner, click.portId, atMs, [0x90 | nibble, key, velocity])
    this.sender.add(owner, click.portId, atMs + strokeMs, [0x80 | nibble, key, 64])
  }
}
