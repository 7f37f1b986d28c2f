import type { ChainPlan } from '../effects/chainRun'
import type { MusicalContext } from '../effects/noteEffect'
import { printChain } from '../effects/print'
import type { Note } from '../event/note'
import { type ChannelMessage, parseChannelMessage } from '../midi/message'
import { streamKey } from '../routing/address'
import type { Listener } from '../routing/route'
import { MeterMap } from '../time/meterMap'
import { type PlayedNote, playedNotes, type TakeClock } from './playedNotes'
import { accountOf, type StreamAccount, type TakeAccount } from './takeAccount'
import type { TakeEvents } from './takeEvents'
import { type SourceChain, saidOf, type TakePlacement, takeTicksAt } from './takePlacement'
import { type PlacedControl, type RecordedTrack, type SoundingNote, TrackDesk } from './trackDesk'

/**
 * Turns the events of a take into notes on the tracks that listen to them, in stages: messages, the notes that were played
 * (`playedNotes`), what comes out of their source's effects (`throughEffects`), and what of that reaches which track, as its
 * routes shape it (`ontoTracks`). Positions follow from the events' own times, less what their source is late, so they can be
 * derived again.
 *
 * @param nextNoteId the first free note id
 */
export function takeToNotes(
  events: TakeEvents,
  placement: TakePlacement,
  tracks: readonly Listener[],
  nextNoteId: number,
): { tracks: RecordedTrack[]; account: TakeAccount; nextNoteId: number } {
  const messages = messagesOf(events)
  const clock = clockOf(events, placement)
  const streams = new Map<string, StreamAccount>()
  const played = playedNotes(events, messages, placement, clock, streams)
  const sounding = throughEffects(played, placement)
  const desk = new TrackDesk(tracks, placement, nextNoteId)
  ontoTracks(played, sounding, desk)
  for (const control of sounding.controls) desk.placeControl(control)
  for (const control of playedControls(events, messages, clock, placement)) desk.placeControl(control)
  const endedAtStop = played.filter((note) => note.isEndedAtStop && desk.hasReached(note.eventIndex)).length
  return {
    tracks: desk.recorded(
      Math.max(placement.startTicks, placement.endTicks ?? clock.ticksAt(placement.endMs)),
    ),
    account: accountOf([...streams.values()], endedAtStop),
    nextNoteId: desk.nextNoteId,
  }
}

function messagesOf(events: TakeEvents): (ChannelMessage | undefined)[] {
  const messages: (ChannelMessage | undefined)[] = new Array(events.count)
  for (let index = 0; index < events.count; index++)
    messages[index] = parseChannelMessage(events.statuses[index]!, events.data1[index]!, events.data2[index]!)
  return messages
}

function clockOf(events: TakeEvents, placement: TakePlacement): TakeClock {
  const compensations = placement.compensations ?? []
  return {
    momentOf: (index, channel) => {
      const late = saidOf(compensations, events.portIds[events.ports[index]!]!, channel)
      return events.timesMs[index]! - (late?.compensationMs ?? 0)
    },
    ticksAt: (timeMs) => Math.round(takeTicksAt(placement, timeMs)),
  }
}

/** Notes and curves on their way to the tracks. */
interface Sounding {
  readonly notes: readonly SoundingNote[]
  readonly controls: readonly PlacedControl[]
}

/** What comes out of the effects between each source and the tracks; without effects, what was played. */
function throughEffects(played: readonly PlayedNote[], placement: TakePlacement): Sounding {
  const chains = (placement.chains ?? []).filter(isActive)
  if (chains.length === 0) return { notes: played, controls: [] }
  const straight: PlayedNote[] = []
  const streams = new Map<string, { chain: SourceChain; portId: string; notes: PlayedNote[] }>()
  for (const note of played) {
    const { portId, channel } = note
    const chain = saidOf(chains, portId, channel)
    const key = streamKey({ portId, channel })
    const known = streams.get(key)
    if (!chain) straight.push(note)
    else if (known) known.notes.push(note)
    else streams.set(key, { chain, portId, notes: [note] })
  }
  const context = { tempoMap: placement.tempoMap, meterMap: placement.meterMap ?? new MeterMap([]) }
  const printed = [...streams.values()].map(({ chain, portId, notes }) =>
    printStream(notes, chain, portId, context),
  )
  return {
    notes: [...straight, ...printed.flatMap(({ notes }) => notes)],
    controls: printed.flatMap(({ controls }) => controls),
  }
}

/** Each note that comes out knows the event it goes back to. */
function printStream(
  played: readonly PlayedNote[],
  chain: ChainPlan,
  portId: string,
  context: MusicalContext,
): Sounding {
  const source = played.map(
    ({ eventIndex, portId: _port, stream: _stream, isEndedAtStop: _ended, ...note }): Note => ({
      ...note,
      id: eventIndex,
      origin: { kind: 'drawn' },
    }),
  )
  const printed = printChain(source, chain, context, 0)
  return {
    notes: printed.notes.flatMap(({ id: _id, origin, ...note }) =>
      origin.kind === 'printed' ? [{ ...note, portId, eventIndex: origin.fromNoteId }] : [],
    ),
    controls: printed.controllers.map(({ tick, channel, number, value }) => ({
      portId,
      tick,
      message: { type: 'controller', channel, number, value },
    })),
  }
}

const isActive = ({ slots, changes }: SourceChain) => slots.some((slot) => slot.isOn) || changes.length > 0

/** Notes go to every track that hears them; the streams are told what became of what was played. */
function ontoTracks(played: readonly PlayedNote[], { notes }: Sounding, desk: TrackDesk): void {
  const made = new Set<number>()
  for (const note of notes) {
    made.add(note.eventIndex)
    desk.placeNote(note)
  }
  for (const { eventIndex, stream } of played) {
    if (!made.has(eventIndex)) stream.withheld++
    else if (desk.hasReached(eventIndex)) stream.captured++
    else stream.unrouted++
  }
}

/** Everything that was played and is not a note. */
function* playedControls(
  events: TakeEvents,
  messages: readonly (ChannelMessage | undefined)[],
  clock: TakeClock,
  placement: TakePlacement,
): Generator<PlacedControl> {
  for (const [index, message] of messages.entries()) {
    if (!message || message.type === 'noteOn' || message.type === 'noteOff') continue
    const tick = Math.max(placement.startTicks, clock.ticksAt(clock.momentOf(index, message.channel)))
    yield { message, tick, portId: events.portIds[events.ports[index]!]! }
  }
}
