import { z } from '../border/checks'
import type { ChannelMessage } from '../midi/message'
import { channelSchema, keySchema, velocitySchema } from '../midi/messageSchemas'
import { type InputAddress, inputAddressSchema } from './address'

/** What becomes of the velocities on the way to a track. */
export const velocityShapeSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('asPlayed') }),
  /** Above 0 a light touch is lifted, below 0 it is held back; the loudest stays the loudest. */
  z.object({ kind: z.literal('curve'), lift: z.number().min(-1).max(1) }),
  z.object({ kind: z.literal('fixed'), velocity: velocitySchema }),
])

export type VelocityShape = Readonly<z.infer<typeof velocityShapeSchema>>

/** One way into a track: which stream, which keys of it, and what changes on the way. */
export const routeSchema = inputAddressSchema.extend({
  lowKey: keySchema,
  highKey: keySchema,
  /** Channel given to what passes; null: as it came. */
  toChannel: channelSchema.nullable(),
  transposeSemitones: z.number().int().min(-60).max(60),
  velocity: velocityShapeSchema,
})

export type Route = Readonly<z.infer<typeof routeSchema>>

/** What routing needs to know of a track. */
export interface Listener {
  readonly id: string
  readonly routes: readonly Route[]
}

/** A stream's address: one channel of one port. */
export interface StreamAddress {
  readonly portId: string
  readonly channel: number
}

/** A track that is reached, and the way it is reached by. */
export interface Reach<T extends Listener> {
  readonly track: T
  readonly route: Route
}

/** A route that takes everything from an address as it comes. */
export function plainRoute(address: InputAddress): Route {
  return {
    portId: address.portId,
    channel: address.channel,
    lowKey: 0,
    highKey: 127,
    toChannel: null,
    transposeSemitones: 0,
    velocity: { kind: 'asPlayed' },
  }
}

/**
 * The tracks that a message of a stream reaches, each by the first of its routes that takes it. A route for "any channel" of
 * a port takes only what no route of that port asks for by number, so that nothing sounds twice.
 *
 * @param key of a note or key pressure; null for what belongs to the whole channel
 */
export function reachOf<T extends Listener>(
  stream: StreamAddress,
  key: number | null,
  tracks: readonly T[],
): Reach<T>[] {
  const reached = (takesChannel: (route: Route) => boolean): Reach<T>[] =>
    tracks.flatMap((track) => {
      const route = track.routes.find(
        (candidate) =>
          candidate.portId === stream.portId &&
          takesChannel(candidate) &&
          (key === null || (key >= candidate.lowKey && key <= candidate.highKey)),
      )
      return route ? [{ track, route }] : []
    })
  const exact = reached((route) => route.channel === stream.channel)
  return exact.length > 0 ? exact : reached((route) => route.channel === null)
}

/** The tracks that any key of a stream reaches. */
export function listenersOf<T extends Listener>(stream: StreamAddress, tracks: readonly T[]): T[] {
  const onPort = tracks.filter((track) => track.routes.some((route) => route.portId === stream.portId))
  const reached = new Set(
    keysThatDiffer(stream.portId, onPort).flatMap((key) =>
      reachOf(stream, key, onPort).map(({ track }) => track),
    ),
  )
  return onPort.filter((track) => reached.has(track))
}

/** One key of each stretch of the keyboard that is routed alike on a port: usually one for all. */
export function keysThatDiffer(portId: string, tracks: readonly Listener[]): number[] {
  const keys = new Set([0])
  for (const track of tracks)
    for (const route of track.routes) {
      if (route.portId !== portId) continue
      keys.add(route.lowKey)
      if (route.highKey < 127) keys.add(route.highKey + 1)
    }
  return [...keys]
}

/** The same as `reachOf`, remembered by address and key: for streams of many events. */
export class Router<T extends Listener> {
  private readonly known = new Map<string, (Reach<T>[] | undefined)[]>()

  constructor(private readonly tracks: readonly T[]) {}

  reachOf(portId: string, channel: number, key: number | null): Reach<T>[] {
    const address = `${channel} ${portId}`
    let byKey = this.known.get(address)
    if (!byKey) {
      byKey = new Array(129)
      this.known.set(address, byKey)
    }
    const place = key ?? 128
    byKey[place] ??= reachOf({ portId, channel }, key, this.tracks)
    return byKey[place]
  }
}

/** The key that a message is about, for key ranges; null where it is about the whole channel. */
export function keyOf(message: ChannelMessage): number | null {
  return 'key' in message ? message.key : null
}

/**
 * A message as it comes out of a route: on its new channel, transposed, with its velocity shaped. Undefined when the
 * transposition takes it off the keyboard.
 */
export function shapeMessage(message: ChannelMessage, route: Route): ChannelMessage | undefined {
  const channel = route.toChannel ?? message.channel
  if (!('key' in message)) return { ...message, channel }
  const key = message.key + route.transposeSemitones
  if (key < 0 || key > 127) return undefined
  if (message.type !== 'noteOn') return { ...message, channel, key }
  return { ...message, channel, key, velocity: shapeVelocity(message.velocity, route.velocity) }
}

/**
 * Velocity 1–127 in, 1–127 out. The curve is a power of the part of 127: exponent 1 leaves all as played, 127 stays 127.
 *
 * @example shapeVelocity(64, { kind: 'fixed', velocity: 100 }) // 100
 */
export function shapeVelocity(velocity: number, shape: VelocityShape): number {
  switch (shape.kind) {
    case 'asPlayed':
      return velocity
    case 'fixed':
      return shape.velocity
    case 'curve':
      return Math.max(1, Math.min(127, Math.round(127 * (velocity / 127) ** (2 ** (-shape.lift * 1.5)))))
  }
}
