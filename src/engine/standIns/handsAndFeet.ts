import { HeldControls } from '../transport/heldControls'

type Bytes = readonly number[]

/** What a player holds on a port: keys that are down, and pedals, bends and pressure away from rest. */
export class HandsAndFeet {
  private readonly keys = new Map<string, Bytes>()
  private readonly controls = new Map<number, HeldControls>()

  /** A message that was sent. */
  follow(bytes: Bytes): void {
    const [status = 0, data1 = 0, data2 = 0] = bytes
    const channel = status & 0x0f
    const kind = status & 0xf0
    const address = `${channel} ${data1}`
    if (kind === 0x90 && data2 > 0) this.keys.set(address, bytes)
    else if (kind === 0x80 || kind === 0x90) this.keys.delete(address)
    else {
      let controls = this.controls.get(channel)
      if (!controls) {
        controls = new HeldControls()
        this.controls.set(channel, controls)
      }
      controls.follow(status, data1, data2, 0)
    }
  }

  /** The messages that let go of everything: fingers first, then feet. */
  lift(): Bytes[] {
    const fingers = [...this.keys.values()].map(([status, key]) => [0x80 | (status! & 0x0f), key!, 64])
    this.keys.clear()
    const feet = [...this.controls.values()].flatMap((controls) =>
      controls.putBack().map(({ bytes }) => ((bytes[0] & 0xf0) === 0xd0 ? bytes.slice(0, 2) : bytes)),
    )
    return [...fingers, ...feet]
  }
}
