import { type ChannelMessage, usualReleaseVelocity } from '../midi/message'
import { pairNotes } from '../midi/notePairs'
import { isSoundPort } from '../routing/ports'
import type { Milliseconds, Ticks } from '../time/units'
import { type StreamAccount, streamOf } from './takeAccount'
import type { TakeEvents } from './takeEvents'
import type { TakePlacement } from './takePlacement'

/** One note as its source played it, at its place in the piece; not on a track yet. */
export interface PlayedNote {
  /** Its note-on in the take. */
  readonly eventIndex: number
  readonly portId: string
  readonly stream: StreamAccount
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly key: number
  readonly velocity: number
  readonly releaseVelocity: number
  readonly channel: number
  /** Its key was still down when recording stopped. */
  readonly isEndedAtStop: boolean
}

/** How the moments of a take become positions. */
export interface TakeClock {
  /** When an event was played: its own time less what its source is late. */
  momentOf(eventIndex: number, channel: number): Milliseconds
  ticksAt(timeMs: Milliseconds): Ticks
}

/**
 * The first stage of a take on its way to tracks: note-ons and note-offs become notes inside the recorded stretch. A note
 * that belongs to the downbeat though it came before keeps its end, and its length where it also ended before. A followed
 * sound takes a mistaken pitch back by ending it where it began.
 *
 * @param streams gets the account of each stream: what was heard, and what lies outside
 */
export function playedNotes(
  events: TakeEvents,
  messages: readonly (ChannelMessage | undefined)[],
  placement: TakePlacement,
  { momentOf, ticksAt }: TakeClock,
  streams: Map<string, StreamAccount>,
): PlayedNote[] {
  const { pairs } = pairNotes(
    messages,
    (index) => events.timesMs[index]!,
    (index) => events.ports[index]!,
  )
  const notes: PlayedNote[] = []
  for (const { onIndex, offIndex } of pairs) {
    const on = messages[onIndex]!
    if (on.type !== 'noteOn') continue
    const portId = events.portIds[events.ports[onIndex]!]!
    const stream = streamOf(streams, portId, on.channel)
    stream.heard++
    const onMs = momentOf(onIndex, on.channel)
    const playedTicks = ticksAt(onMs)
    const isAfterStretch = placement.endTicks != null && playedTicks >= placement.endTicks
    if (onMs < placement.anchorMs - placement.earlyMs || isAfterStretch) {
      stream.outside++
      continue
    }
    const off = offIndex < 0 ? undefined : messages[offIndex]
    const offMs = offIndex < 0 ? Math.max(placement.endMs, onMs) : momentOf(offIndex, on.channel)
    if (isSoundPort(portId) && offIndex >= 0 && offMs <= onMs) {
      stream.mended++
      continue
    }
    const onsetTicks = Math.max(placement.startTicks, playedTicks)
    const endTicks = ticksAt(offMs)
    notes.push({
      eventIndex: onIndex,
      portId,
      stream,
      onsetTicks,
      durationTicks: endTicks > onsetTicks ? endTicks - onsetTicks : Math.max(1, endTicks - playedTicks),
      key: on.key,
      velocity: on.velocity,
      releaseVelocity: off?.type === 'noteOff' ? off.velocity : usualReleaseVelocity,
      channel: on.channel,
      isEndedAtStop: off === undefined,
    })
  }
  return notes
}
