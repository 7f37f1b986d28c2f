import type { InputAddress } from '../project/schema'

/** What routing needs to know of a track. */
export interface Listener {
  readonly id: string
  readonly input: InputAddress | null
}

/** A stream's address: one channel of one port. */
export interface StreamAddress {
  readonly portId: string
  readonly channel: number
}

/**
 * The tracks that a stream reaches: those that listen to its port and its channel. A track for "any channel" of a port
 * takes only the channels that no other track of that port listens to by number, so that nothing sounds twice.
 */
export function listenersOf<T extends Listener>(stream: StreamAddress, tracks: readonly T[]): T[] {
  const onPort = tracks.filter((track) => track.input?.portId === stream.portId)
  const exact = onPort.filter((track) => track.input!.channel === stream.channel)
  return exact.length > 0 ? exact : onPort.filter((track) => track.input!.channel === null)
}

/** The same, remembered by address: for streams of many events. */
export class Router<T extends Listener> {
  private readonly known = new Map<string, T[]>()

  constructor(private readonly tracks: readonly T[]) {}

  listenersOf(portId: string, channel: number): T[] {
    const address = `${channel} ${portId}`
    let listeners = this.known.get(address)
    if (!listeners) {
      listeners = listenersOf({ portId, channel }, this.tracks)
      this.known.set(address, listeners)
    }
    return listeners
  }
}
