import type { Milliseconds } from '../time/units'

/**
 * Events as they arrived, in columns, never changed afterwards: time on the sources' clock (milliseconds since the
 * epoch), the port's place in `portIds`, and the bytes of the message.
 */
export interface TakeEvents {
  readonly count: number
  readonly portIds: readonly string[]
  readonly timesMs: Float64Array
  readonly ports: Uint16Array
  readonly statuses: Uint8Array
  readonly data1: Uint8Array
  readonly data2: Uint8Array
}

/** Collects events in arrays that grow by doubling, so that recording never copies much at once. */
export class TakeRecorder {
  private capacity = 1024
  private timesMs = new Float64Array(this.capacity)
  private ports = new Uint16Array(this.capacity)
  private statuses = new Uint8Array(this.capacity)
  private data1 = new Uint8Array(this.capacity)
  private data2 = new Uint8Array(this.capacity)
  private readonly portIds: string[] = []
  private readonly portIndexes = new Map<string, number>()
  count = 0

  /** @returns the index of the event in the take */
  add(portId: string, timeMs: Milliseconds, status: number, data1: number, data2: number): number {
    if (this.count === this.capacity) this.grow()
    let port = this.portIndexes.get(portId)
    if (port === undefined) {
      port = this.portIds.push(portId) - 1
      this.portIndexes.set(portId, port)
    }
    const index = this.count++
    this.timesMs[index] = timeMs
    this.ports[index] = port
    this.statuses[index] = status
    this.data1[index] = data1
    this.data2[index] = data2
    return index
  }

  /** A copy of the events from an index on. */
  slice(from = 0): TakeEvents {
    return {
      count: this.count - from,
      portIds: [...this.portIds],
      timesMs: this.timesMs.slice(from, this.count),
      ports: this.ports.slice(from, this.count),
      statuses: this.statuses.slice(from, this.count),
      data1: this.data1.slice(from, this.count),
      data2: this.data2.slice(from, this.count),
    }
  }

  private grow(): void {
    this.capacity *= 2
    const grown = <Column extends Float64Array | Uint16Array | Uint8Array>(
      old: Column,
      next: Column,
    ): Column => {
      next.set(old)
      return next
    }
    this.timesMs = grown(this.timesMs, new Float64Array(this.capacity))
    this.ports = grown(this.ports, new Uint16Array(this.capacity))
    this.statuses = grown(this.statuses, new Uint8Array(this.capacity))
    this.data1 = grown(this.data1, new Uint8Array(this.capacity))
    this.data2 = grown(this.data2, new Uint8Array(this.capacity))
  }
}

/** Joins stretches of one take, in order. Later stretches know all ports of earlier ones. */
export function joinTakeEvents(stretches: readonly TakeEvents[]): TakeEvents {
  const recorder = new TakeRecorder()
  for (const events of stretches)
    for (let i = 0; i < events.count; i++)
      recorder.add(
        events.portIds[events.ports[i]!]!,
        events.timesMs[i]!,
        events.statuses[i]!,
        events.data1[i]!,
        events.data2[i]!,
      )
  return recorder.slice()
}
