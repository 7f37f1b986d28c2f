import { addressedChannels } from '../effects/address/channels'
import type { EffectSlot } from '../effects/catalogue'
import type { InputAddress } from './address'
import type { Route } from './route'

/** What the search for feedback needs to know of a track. */
export interface SendingTrack {
  readonly id: string
  readonly channel: number
  readonly routes: readonly Route[]
  readonly sendTo: InputAddress | null
  /** Its effects, which may send notes to channels of their own. */
  readonly slots: readonly EffectSlot[]
}

/** Whether what the first track sends is heard by the second. */
function feeds(from: SendingTrack, to: SendingTrack): boolean {
  const { sendTo } = from
  if (!sendTo) return false
  const channels =
    sendTo.channel !== null ? [sendTo.channel] : (addressedChannels(from.slots) ?? [from.channel])
  return to.routes.some(
    (route) => route.portId === sendTo.portId && (route.channel === null || channels.includes(route.channel)),
  )
}

/**
 * A ring of tracks in which each sends what the next one hears and the last what the first hears: its notes would multiply
 * without end.
 *
 * @returns the tracks of one ring in order; empty when there is none
 */
export function feedbackRing<T extends SendingTrack>(tracks: readonly T[]): T[] {
  const senders = tracks.filter((track) => track.sendTo !== null)
  const finished = new Set<string>()
  const path: T[] = []
  const visit = (track: T): T[] => {
    const start = path.indexOf(track)
    if (start >= 0) return path.slice(start)
    if (finished.has(track.id)) return []
    path.push(track)
    for (const next of senders) {
      if (!feeds(track, next)) continue
      const ring = visit(next)
      if (ring.length > 0) return ring
    }
    path.pop()
    finished.add(track.id)
    return []
  }
  for (const track of senders) {
    const ring = visit(track)
    if (ring.length > 0) return ring
  }
  return []
}

/** Names of a ring as a sentence: "Bells → Echo → Bells". */
export function ringInWords(ring: readonly { readonly name: string }[]): string {
  return [...ring, ring[0]!].map((track) => track.name).join(' → ')
}

/** Most events a port may bring in a second before it is taken for a loop somewhere outside. */
export const mostEventsPerSecond = 6000

/**
 * Counts the events of each port second by second. A cable of MIDI 1.0 carries about 1,000 messages a second and fast ports a
 * few times that; more than `mostEventsPerSecond` comes from a loop.
 */
export class RateGuard {
  private readonly counts = new Map<string, { second: number; count: number }>()
  private readonly shut = new Set<string>()

  /** @returns "shut" when this event makes the port be shut, "dropped" while it is */
  pass(portId: string, timeMs: number): 'passed' | 'shut' | 'dropped' {
    if (this.shut.has(portId)) return 'dropped'
    const second = Math.floor(timeMs / 1000)
    const known = this.counts.get(portId)
    if (!known || known.second !== second) {
      this.counts.set(portId, { second, count: 1 })
      return 'passed'
    }
    known.count++
    if (known.count <= mostEventsPerSecond) return 'passed'
    this.shut.add(portId)
    return 'shut'
  }

  open(portId: string): void {
    this.shut.delete(portId)
    this.counts.delete(portId)
  }
}
