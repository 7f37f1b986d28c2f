import { HeldControls } from '../transport/heldControls'
import type { PortMessage } from '../transport/portSender'

type OnPort = Pick<PortMessage, 'portId' | 'bytes'>

/** What one channel of a port holds. */
interface Channel {
  readonly portId: string
  readonly nibble: number
  readonly down: Set<number>
  readonly controls: HeldControls
}

/** What was begun on ports and not ended yet: keys that are down, and pedals, bends and pressure away from rest. */
export class HeldOnPorts {
  private readonly channels = new Map<string, Channel>()

  /** Takes note of a message that was handed to its port. */
  follow({ portId, bytes: [status = 0, data1 = 0, data2 = 0] }: OnPort): void {
    const [kind, nibble] = [status & 0xf0, status & 0x0f]
    // What a whole port is told belongs to no channel.
    if (kind === 0xf0) return
    const address = `${nibble} ${portId}`
    let channel = this.channels.get(address)
    if (!channel) {
      channel = { portId, nibble, down: new Set(), controls: new HeldControls() }
      this.channels.set(address, channel)
    }
    if (kind === 0x90 && data2 > 0) channel.down.add(data1)
    else if (kind === 0x80 || kind === 0x90) channel.down.delete(data1)
    else channel.controls.follow(status, data1, data2, 0)
  }

  /** The messages that end all of it: keys first, then what held them. */
  letGo(): OnPort[] {
    const all = [...this.channels.values()]
    this.channels.clear()
    return [
      ...all.flatMap(({ portId, nibble, down }) =>
        [...down].map((key) => ({ portId, bytes: [0x80 | nibble, key, 64] })),
      ),
      ...all.flatMap(({ portId, controls }) =>
        controls.putBack().map(({ bytes }) => ({
          portId,
          bytes: (bytes[0] & 0xf0) === 0xd0 ? bytes.slice(0, 2) : bytes,
        })),
      ),
    ]
  }
}
