import { byOnset, type ControllerEvent, type Note } from '../event/note'
import { type ChannelMessage, parseChannelMessage } from '../midi/message'
import { pairNotes } from '../midi/notePairs'
import { type Listener, Router } from '../routing/route'
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
  /** Notes up to this much before the start belong to its downbeat. */
  readonly earlyMs: Milliseconds
}

export interface RecordedTrack {
  readonly trackId: string
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
}

export interface TakeAccount {
  /** Note-ons that arrived. */
  readonly heard: number
  /** Those that became notes of at least one track. */
  readonly captured: number
  /** Played in the count-in, too early to belong to the first bar: kept in the take, not on a track. */
  readonly inCountIn: number
  /** Arrived on an address that no armed track listens to. */
  readonly unrouted: number
  /** Ended by the program when recording stopped. */
  readonly endedAtStop: number
}

/**
 * Turns the events of a take into notes on the tracks that listen to them. Positions follow from the events' own times
 * through the tempo map, so they can be derived again.
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
  const { pairs } = pairNotes(messages, (index) => events.ports[index]!)
  const startMs = placement.tempoMap.msAt(placement.startTicks)
  const ticksAt = (timeMs: Milliseconds): Ticks =>
    Math.round(placement.tempoMap.ticksAt(startMs + timeMs - placement.anchorMs))
  const router = new Router(tracks)
  const notesOf = new Map<string, Note[]>(tracks.map((track) => [track.id, []]))
  const controllersOf = new Map<string, ControllerEvent[]>(tracks.map((track) => [track.id, []]))
  let id = nextNoteId
  let [captured, inCountIn, unrouted, endedAtStop] = [0, 0, 0, 0]

  for (const { onIndex, offIndex } of pairs) {
    const on = messages[onIndex]!
    if (on.type !== 'noteOn') continue
    const onMs = events.timesMs[onIndex]!
    if (onMs < placement.anchorMs - placement.earlyMs) {
      inCountIn++
      continue
    }
    const listeners = router.listenersOf(events.portIds[events.ports[onIndex]!]!, on.channel)
    if (listeners.length === 0) {
      unrouted++
      continue
    }
    captured++
    const off = offIndex < 0 ? undefined : messages[offIndex]
    if (!off) endedAtStop++
    const offMs = offIndex < 0 ? Math.max(placement.endMs, onMs) : events.timesMs[offIndex]!
    const onsetTicks = Math.max(placement.startTicks, ticksAt(onMs))
    const durationTicks = Math.max(1, ticksAt(offMs) - onsetTicks)
    for (const track of listeners)
      notesOf.get(track.id)!.push({
        id: id++,
        onsetTicks,
        durationTicks,
        key: on.key,
        velocity: on.velocity,
        releaseVelocity: off?.type === 'noteOff' ? off.velocity : 64,
        channel: on.channel,
        origin: { kind: 'played', takeSerial: placement.takeSerial, eventIndex: onIndex },
      })
  }
  for (const [index, message] of messages.entries()) {
    if (!message || message.type === 'noteOn' || message.type === 'noteOff') continue
    for (const track of router.listenersOf(events.portIds[events.ports[index]!]!, message.channel))
      controllersOf
        .get(track.id)!
        .push(controllerOf(message, Math.max(placement.startTicks, ticksAt(events.timesMs[index]!))))
  }
  const recorded = tracks
    .map((track) => ({
      trackId: track.id,
      notes: notesOf.get(track.id)!.sort(byOnset),
      controllers: controllersOf.get(track.id)!,
    }))
    .filter(({ notes, controllers }) => notes.length > 0 || controllers.length > 0)
  return {
    tracks: recorded,
    account: { heard: pairs.length, captured, inCountIn, unrouted, endedAtStop },
    nextNoteId: id,
  }
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
