import type { ChainPlan } from '../effects/chainRun'
import { printChain } from '../effects/print'
import { byOnset, type ControllerEvent, type Note } from '../event/note'
import { eventsToRest } from '../event/resting'
import { type ChannelMessage, parseChannelMessage } from '../midi/message'
import { pairNotes } from '../midi/notePairs'
import type { InputAddress } from '../routing/address'
import { keyOf, type Listener, Router, shapeMessage } from '../routing/route'
import { MeterMap } from '../time/meterMap'
import type { TempoMap } from '../time/tempoMap'
import type { Milliseconds, Ticks } from '../time/units'
import type { TakeEvents } from './takeEvents'

/** How a take lies in the piece. */
export interface TakePlacement {
  readonly takeSerial: number
  readonly startTicks: Ticks
  /** The moment of `startTicks` on the sources' clock. */
  readonly anchorMs: Milliseconds
  /** The moment recording stopped; keys still down end here. */
  readonly endMs: Milliseconds
  readonly tempoMap: TempoMap
  /** Notes from here on are outside the stretch that was recorded; undefined or null: it was open. */
  readonly endTicks?: Ticks | null
  /** Notes up to this much before the start belong to its downbeat. */
  readonly earlyMs: Milliseconds
  readonly compensations?: readonly Compensation[]
  /** Moments and positions of a followed clock, in order; none where the piece's own tempo was played to. */
  readonly clockPoints?: readonly ClockPoint[]
  /** Effects that sources play through; a channel of null holds for the whole port. */
  readonly chains?: readonly SourceChain[]
  /** For effects that go by the bar. */
  readonly meterMap?: MeterMap
}

/** The effects between a source and the tracks. */
export interface SourceChain extends InputAddress, ChainPlan {}

/** How late the events of an address arrive; a channel of null holds for the whole port. */
export interface Compensation extends InputAddress {
  readonly compensationMs: Milliseconds
}

export interface ClockPoint {
  readonly timeMs: Milliseconds
  readonly ticks: Ticks
}

export interface RecordedTrack {
  readonly trackId: string
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
}

/** What became of the note-ons of one stream. */
export interface StreamAccount {
  readonly portId: string
  readonly channel: number
  /** Note-ons that arrived. */
  heard: number
  /** Those that became notes of at least one track. */
  captured: number
  /** Outside the pass: in the count-in, too early to belong to the first bar, or after a marked stretch. Kept in the take, not on a track. */
  outside: number
  /** On an address or key that no armed track hears. Kept in the take, not on a track. */
  unrouted: number
  /** Left out by an effect of the source. Kept in the take, not on a track. */
  withheld: number
}

export interface TakeAccount {
  /** Note-ons that arrived. */
  readonly heard: number
  /** Those that became notes of at least one track. */
  readonly captured: number
  /** Outside the pass, as in the streams. */
  readonly inCountIn: number
  /** Arrived on an address that no armed track listens to. */
  readonly unrouted: number
  /** Left out by an effect. */
  readonly withheld: number
  /** Ended by the program when recording stopped. */
  readonly endedAtStop: number
  readonly streams: readonly StreamAccount[]
}

/** The exact position of a moment of a take, along its tempi or along the clock it followed. */
export function takeTicksAt(
  take: Pick<TakePlacement, 'startTicks' | 'anchorMs' | 'tempoMap' | 'clockPoints'>,
  timeMs: Milliseconds,
): Ticks {
  const points = take.clockPoints ?? []
  if (points.length >= 2) {
    let index = 1
    while (index < points.length - 1 && points[index]!.timeMs < timeMs) index++
    const from = points[index - 1]!
    const to = points[index]!
    return from.ticks + ((timeMs - from.timeMs) / (to.timeMs - from.timeMs)) * (to.ticks - from.ticks)
  }
  return take.tempoMap.ticksAt(take.tempoMap.msAt(take.startTicks) + timeMs - take.anchorMs)
}

/**
 * Turns the events of a take into notes on the tracks that listen to them, as their routes shape them. Positions follow
 * from the events' own times, less what their source is late, so they can be derived again. A note that belongs to the
 * downbeat though it came before keeps its end, and its length where it also ended before.
 *
 * @param nextNoteId the first free note id
 */
export function takeToNotes(
  events: TakeEvents,
  placement: TakePlacement,
  tracks: readonly Listener[],
  nextNoteId: number,
): { tracks: RecordedTrack[]; account: TakeAccount; nextNoteId: number } {
  const messages: (ChannelMessage | undefined)[] = new Array(events.count)
  for (let i = 0; i < events.count; i++)
    messages[i] = parseChannelMessage(events.statuses[i]!, events.data1[i]!, events.data2[i]!)
  const { pairs } = pairNotes(
    messages,
    (index) => events.timesMs[index]!,
    (index) => events.ports[index]!,
  )
  const ticksAt = (timeMs: Milliseconds): Ticks => Math.round(takeTicksAt(placement, timeMs))
  const latenessOf = latenessLookup(placement.compensations ?? [])
  const momentOf = (index: number, channel: number): Milliseconds =>
    events.timesMs[index]! - latenessOf(events.portIds[events.ports[index]!]!, channel)
  const router = new Router(tracks)
  const notesOf = new Map<string, Note[]>(tracks.map((track) => [track.id, []]))
  const controllersOf = new Map<string, ControllerEvent[]>(tracks.map((track) => [track.id, []]))
  const streams = new Map<string, StreamAccount>()
  const chainOf = chainLookup(placement.chains ?? [])
  /** What goes through effects first, stream by stream; the ids are those of the note-on events. */
  const throughChains = new Map<
    string,
    { chain: ChainPlan; portId: string; stream: StreamAccount; notes: Note[] }
  >()
  let id = nextNoteId
  let endedAtStop = 0
  for (const { onIndex, offIndex } of pairs) {
    const on = messages[onIndex]!
    if (on.type !== 'noteOn') continue
    const portId = events.portIds[events.ports[onIndex]!]!
    const stream = streamOf(streams, portId, on.channel)
    stream.heard++
    const onMs = momentOf(onIndex, on.channel)
    const isAfterStretch = placement.endTicks != null && ticksAt(onMs) >= placement.endTicks
    if (onMs < placement.anchorMs - placement.earlyMs || isAfterStretch) {
      stream.outside++
      continue
    }
    const off = offIndex < 0 ? undefined : messages[offIndex]
    const offMs = offIndex < 0 ? Math.max(placement.endMs, onMs) : momentOf(offIndex, on.channel)
    const playedTicks = ticksAt(onMs)
    const onsetTicks = Math.max(placement.startTicks, playedTicks)
    const endTicks = ticksAt(offMs)
    const durationTicks = endTicks > onsetTicks ? endTicks - onsetTicks : Math.max(1, endTicks - playedTicks)
    const chain = chainOf(portId, on.channel)
    if (chain) {
      const played: Note = {
        id: onIndex,
        onsetTicks,
        durationTicks,
        key: on.key,
        velocity: on.velocity,
        releaseVelocity: off?.type === 'noteOff' ? off.velocity : 64,
        channel: on.channel,
        origin: { kind: 'drawn' },
      }
      const address = `${on.channel} ${portId}`
      const known = throughChains.get(address)
      if (known) known.notes.push(played)
      else throughChains.set(address, { chain, portId, stream, notes: [played] })
      if (!off) endedAtStop++
      continue
    }
    let isOnTrack = false
    for (const { track, route } of router.reachOf(portId, on.channel, on.key)) {
      const shaped = shapeMessage(on, route)
      if (shaped?.type !== 'noteOn') continue
      isOnTrack = true
      notesOf.get(track.id)!.push({
        id: id++,
        onsetTicks,
        durationTicks,
        key: shaped.key,
        velocity: shaped.velocity,
        releaseVelocity: off?.type === 'noteOff' ? off.velocity : 64,
        channel: shaped.channel,
        origin: { kind: 'played', takeSerial: placement.takeSerial, eventIndex: onIndex },
      })
    }
    if (!isOnTrack) stream.unrouted++
    else {
      stream.captured++
      if (!off) endedAtStop++
    }
  }
  for (const { chain, portId, stream, notes } of throughChains.values()) {
    const context = { tempoMap: placement.tempoMap, meterMap: placement.meterMap ?? new MeterMap([]) }
    const printed = printChain(notes, chain, context, 0)
    const [made, reached] = [new Set<number>(), new Set<number>()]
    for (const note of printed.notes) {
      const eventIndex = note.origin.kind === 'printed' ? note.origin.fromNoteId : 0
      made.add(eventIndex)
      for (const { track, route } of router.reachOf(portId, note.channel, note.key)) {
        const shaped = shapeMessage({ ...note, type: 'noteOn' }, route)
        if (shaped?.type !== 'noteOn') continue
        reached.add(eventIndex)
        notesOf.get(track.id)!.push({
          ...note,
          id: id++,
          key: shaped.key,
          velocity: shaped.velocity,
          channel: shaped.channel,
          origin: { kind: 'played', takeSerial: placement.takeSerial, eventIndex },
        })
      }
    }
    for (const event of printed.controllers)
      for (const { track, route } of router.reachOf(portId, event.channel, null))
        controllersOf.get(track.id)!.push({ ...event, channel: route.toChannel ?? event.channel })
    stream.captured += reached.size
    stream.unrouted += made.size - reached.size
    stream.withheld += notes.length - made.size
  }
  for (const [index, message] of messages.entries()) {
    if (!message || message.type === 'noteOn' || message.type === 'noteOff') continue
    const portId = events.portIds[events.ports[index]!]!
    for (const { track, route } of router.reachOf(portId, message.channel, keyOf(message))) {
      const shaped = shapeMessage(message, route)
      if (!shaped || shaped.type === 'noteOn' || shaped.type === 'noteOff') continue
      const tick = Math.max(placement.startTicks, ticksAt(momentOf(index, message.channel)))
      controllersOf.get(track.id)!.push(controllerOf(shaped, tick))
    }
  }
  const endTicks = Math.max(placement.startTicks, placement.endTicks ?? ticksAt(placement.endMs))
  const recorded = tracks
    .map((track) => {
      const controllers = controllersOf.get(track.id)!
      return {
        trackId: track.id,
        notes: notesOf.get(track.id)!.sort(byOnset),
        // A pedal still down at the end goes up there, as keys do.
        controllers: [...controllers, ...eventsToRest(controllers, endTicks)],
      }
    })
    .filter(({ notes, controllers }) => notes.length > 0 || controllers.length > 0)
  return {
    tracks: recorded,
    account: accountOf([...streams.values()], endedAtStop),
    nextNoteId: id,
  }
}

/** Adds up the streams. */
export function accountOf(streams: readonly StreamAccount[], endedAtStop: number): TakeAccount {
  const sum = (pick: (stream: StreamAccount) => number) =>
    streams.reduce((total, stream) => total + pick(stream), 0)
  return {
    heard: sum((stream) => stream.heard),
    captured: sum((stream) => stream.captured),
    inCountIn: sum((stream) => stream.outside),
    unrouted: sum((stream) => stream.unrouted),
    withheld: sum((stream) => stream.withheld),
    endedAtStop,
    streams,
  }
}

/** The account of several passes as one, stream by stream. */
export function sumAccounts(accounts: readonly TakeAccount[]): TakeAccount {
  const streams = new Map<string, StreamAccount>()
  for (const account of accounts)
    for (const { portId, channel, heard, captured, outside, unrouted, withheld } of account.streams) {
      const stream = streamOf(streams, portId, channel)
      stream.heard += heard
      stream.captured += captured
      stream.outside += outside
      stream.unrouted += unrouted
      stream.withheld += withheld
    }
  return accountOf(
    [...streams.values()],
    accounts.reduce((total, account) => total + account.endedAtStop, 0),
  )
}

function streamOf(streams: Map<string, StreamAccount>, portId: string, channel: number): StreamAccount {
  const address = `${channel} ${portId}`
  let stream = streams.get(address)
  if (!stream) {
    stream = { portId, channel, heard: 0, captured: 0, outside: 0, unrouted: 0, withheld: 0 }
    streams.set(address, stream)
  }
  return stream
}

function latenessLookup(
  compensations: NonNullable<TakePlacement['compensations']>,
): (portId: string, channel: number) => Milliseconds {
  if (compensations.length === 0) return () => 0
  return (portId, channel) =>
    (
      compensations.find((each) => each.portId === portId && each.channel === channel) ??
      compensations.find((each) => each.portId === portId && each.channel === null)
    )?.compensationMs ?? 0
}

function chainLookup(
  chains: readonly SourceChain[],
): (portId: string, channel: number) => ChainPlan | undefined {
  const active = chains.filter(({ slots, changes }) => slots.some((slot) => slot.isOn) || changes.length > 0)
  if (active.length === 0) return () => undefined
  return (portId, channel) =>
    active.find((each) => each.portId === portId && each.channel === channel) ??
    active.find((each) => each.portId === portId && each.channel === null)
}

function controllerOf(
  message: Exclude<ChannelMessage, { type: 'noteOn' | 'noteOff' }>,
  tick: Ticks,
): ControllerEvent {
  const { channel } = message
  switch (message.type) {
    case 'controller':
      return { tick, channel, kind: 'controller', number: message.number, value: message.value }
    case 'program':
      return { tick, channel, kind: 'program', number: 0, value: message.program }
    case 'keyPressure':
      return { tick, channel, kind: 'keyPressure', number: message.key, value: message.value }
    default:
      return { tick, channel, kind: message.type, number: 0, value: message.value }
  }
}
