import type { Milliseconds } from '@/core/time/units'
import { HeldControls } from './heldControls'

/** A message on its way to a port, with the moment it is meant for. */
export interface PortMessage {
  readonly portId: string
  readonly timeMs: Milliseconds
  readonly bytes: readonly number[]
}

interface Waiting extends PortMessage {
  /** Whose it is: a track, the click, the clock. */
  readonly owner: string
}

/** One channel of a port, as an owner has left it. */
interface ChannelLeft {
  readonly portId: string
  readonly nibble: number
  /** Keys that are down at the far end, with their note-ons. */
  readonly down: Map<number, PortMessage>
  readonly controls: HeldControls
  /** The latest moment of anything that was handed over. */
  lastMs: Milliseconds
}

/** Messages are handed to their port this much before they are due, with their moment: the port keeps the time. */
export const handOverMs: Milliseconds = 140

/** All Sound Off (MIDI 1.0 Detailed Specification, channel mode messages). */
const allSoundOff = 120

/**
 * Sends to ports and cables. Messages wait here until shortly before they are due, so that they can still be taken back; a
 * note that was sent is always ended, and what was moved is put back.
 */
export class PortSender {
  private waiting: Waiting[] = []
  private isSorted = true
  /** What each owner has left at the far end, by port and channel. */
  private readonly left = new Map<string, Map<string, ChannelLeft>>()

  constructor(private readonly send: (messages: readonly PortMessage[]) => void) {}

  add(owner: string, portId: string, timeMs: Milliseconds, bytes: readonly number[]): void {
    this.waiting.push({ owner, portId, timeMs, bytes })
    this.isSorted = false
  }

  /** Something waits for its moment. */
  get isBusy(): boolean {
    return this.waiting.length > 0
  }

  /** Hands over what is due. */
  tick(nowMs: Milliseconds): void {
    if (this.waiting.length === 0) return
    if (!this.isSorted) this.waiting.sort((a, b) => a.timeMs - b.timeMs)
    this.isSorted = true
    let count = 0
    while (count < this.waiting.length && this.waiting[count]!.timeMs <= nowMs + handOverMs) count++
    if (count === 0) return
    const due = this.waiting.splice(0, count)
    for (const message of due) this.remember(message)
    this.send(due.map(({ portId, timeMs, bytes }) => ({ portId, timeMs, bytes })))
  }

  /**
   * Takes back what an owner still has waiting, ends the notes they have down and puts back what they have moved; of
   * everybody when none is named.
   *
   * @param isSoundOff whether what still rings is cut off too, on every channel that got something
   */
  silence(nowMs: Milliseconds, owner?: string, isSoundOff = false): void {
    this.waiting = this.waiting.filter((message) => owner !== undefined && message.owner !== owner)
    const ends: PortMessage[] = []
    for (const [who, channels] of this.left) {
      if (owner !== undefined && who !== owner) continue
      for (const channel of channels.values()) ends.push(...endsOf(channel, nowMs, isSoundOff))
      this.left.delete(who)
    }
    if (ends.length > 0) this.send(ends)
  }

  private remember({ owner, portId, timeMs, bytes }: Waiting): void {
    const status = bytes[0]!
    if (status >= 0xf0) return
    let channels = this.left.get(owner)
    if (!channels) {
      channels = new Map()
      this.left.set(owner, channels)
    }
    const nibble = status & 0x0f
    const address = `${nibble} ${portId}`
    let channel = channels.get(address)
    if (!channel) {
      channel = { portId, nibble, down: new Map(), controls: new HeldControls(), lastMs: timeMs }
      channels.set(address, channel)
    }
    channel.lastMs = Math.max(channel.lastMs, timeMs)
    const [, data1 = 0, data2 = 0] = bytes
    const kind = status & 0xf0
    if (kind === 0x90 && data2 > 0) channel.down.set(data1, { portId, timeMs, bytes })
    else if (kind === 0x80 || kind === 0x90) channel.down.delete(data1)
    else channel.controls.follow(status, data1, data2, timeMs)
  }
}

/** Note-offs, then controllers to rest, then silence; each after what it ends. */
function endsOf(channel: ChannelLeft, nowMs: Milliseconds, isSoundOff: boolean): PortMessage[] {
  const { portId, nibble, down, controls, lastMs } = channel
  const ends: PortMessage[] = []
  for (const { timeMs, bytes } of down.values())
    ends.push({ portId, timeMs: Math.max(nowMs, timeMs + 1), bytes: [0x80 | nibble, bytes[1]!, 64] })
  for (const { bytes, movedAtMs } of controls.putBack()) {
    const hasOneByte = (bytes[0] & 0xf0) === 0xd0
    ends.push({
      portId,
      timeMs: Math.max(nowMs, movedAtMs + 1),
      bytes: hasOneByte ? bytes.slice(0, 2) : bytes,
    })
  }
  if (isSoundOff)
    ends.push({ portId, timeMs: Math.max(nowMs, lastMs + 1), bytes: [0xb0 | nibble, allSoundOff, 0] })
  return ends
}
