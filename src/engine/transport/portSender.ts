import type { Milliseconds } from '@/core/time/units'

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

/** Messages are handed to their port this much before they are due, with their moment: the port keeps the time. */
const handOverMs: Milliseconds = 140

/**
 * Sends to ports and cables. Messages wait here until shortly before they are due, so that they can still be taken back; a
 * note that was sent is always ended.
 */
export class PortSender {
  private waiting: Waiting[] = []
  private isSorted = true
  /** Keys that are down at the far end, by owner. */
  private readonly down = new Map<string, Map<string, PortMessage>>()

  constructor(private readonly send: (messages: readonly PortMessage[]) => void) {}

  add(owner: string, portId: string, timeMs: Milliseconds, bytes: readonly number[]): void {
    this.waiting.push({ owner, portId, timeMs, bytes })
    this.isSorted = false
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

  /** Takes back what an owner still has waiting, and ends the notes they have down; of everybody when none is named. */
  silence(nowMs: Milliseconds, owner?: string): void {
    this.waiting = this.waiting.filter((message) => owner !== undefined && message.owner !== owner)
    const ends: PortMessage[] = []
    for (const [who, keys] of this.down) {
      if (owner !== undefined && who !== owner) continue
      for (const { portId, timeMs, bytes } of keys.values())
        ends.push({
          portId,
          timeMs: Math.max(nowMs, timeMs + 1),
          bytes: [0x80 | (bytes[0]! & 0x0f), bytes[1]!, 64],
        })
      this.down.delete(who)
    }
    if (ends.length > 0) this.send(ends)
  }

  private remember(message: Waiting): void {
    const kind = message.bytes[0]! & 0xf0
    if (kind !== 0x80 && kind !== 0x90) return
    let keys = this.down.get(message.owner)
    if (!keys) {
      keys = new Map()
      this.down.set(message.owner, keys)
    }
    const address = `${message.portId} ${message.bytes[0]! & 0x0f} ${message.bytes[1]}`
    if (kind === 0x90 && message.bytes[2]! > 0) keys.set(address, message)
    else keys.delete(address)
  }
}
