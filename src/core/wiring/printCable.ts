import { addressedChannels } from '../effects/address/channels'
import type { MusicalContext } from '../effects/noteEffect'
import { printChain } from '../effects/print'
import { byOnset, type ControllerEvent, type Note, noteEndTicks } from '../event/note'
import { type Generator, notesBetween, streamsOf } from '../generators/generator'
import type { Instrument } from '../midi/instrument'
import { contextOf } from '../project/context'
import { instrumentOf, newClip, newTrack, soundingControllers, soundingNotes } from '../project/create'
import { chainOf, notesOfGenerated, type PrintResult, playingEndTicks } from '../project/printing'
import type { Project, Track } from '../project/schema'
import { isWithin } from '../project/stretch'
import { cablePortId } from '../routing/ports'
import { nameWith } from '../text/bounded'
import type { Stretch } from '../time/timeSchemas'
import type { Ticks } from '../time/units'
import { feedbackIn } from './feedbackIn'

/** What goes on for ever is printed for so many bars where no stretch says how many. */
const barsOfEndless = 16

/** What one sender puts on a channel of a cable. */
interface Sent {
  /** Null: a generator. */
  readonly fromTrackId: string | null
  readonly channel: number
  readonly instrument: Instrument
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
}

/** Tracks and generators of this piece that send to a cable when it plays. */
export function sendersTo(
  project: Project,
  cable: string,
): { readonly tracks: readonly Track[]; readonly generators: readonly Generator[] } {
  const portId = cablePortId(cable)
  const ring = feedbackIn(project)
  const hasSolo = project.tracks.some((track) => track.isSolo)
  return {
    tracks: project.tracks.filter(
      (track) =>
        track.sendTo?.portId === portId &&
        !track.isMuted &&
        (!hasSolo || track.isSolo) &&
        !ring.includes(track),
    ),
    generators: project.generators.filter(
      ({ isPlaying, work }) =>
        isPlaying && work.kind === 'lanes' && work.lanes.some((lane) => lane.isOn && lane.cable === cable),
    ),
  }
}

/**
 * Prints what this piece sends over a cable: the notes that would arrive at its other end become ordinary notes, a track for
 * each channel. Whoever sent them rests. What other programs send is not known here: it can only be recorded.
 *
 * @param stretch only what begins in here; null: the whole piece
 */
export function printCable(project: Project, cable: string, stretch: Stretch | null): PrintResult {
  const context = contextOf(project)
  const { tracks, generators } = sendersTo(project, cable)
  // Lanes go on for ever: as long as the tracks do, or so many bars.
  const lanesRange = stretch ?? {
    startTicks: 0,
    endTicks: Math.max(
      context.meterMap.measure(barsOfEndless).startTicks,
      playingEndTicks({ ...project, generators: [] }) ?? 0,
    ),
  }
  let leftOut = 0
  const sent: Sent[] = []
  for (const track of tracks) {
    const result = sentByTrack(track, context, stretch)
    leftOut += result.leftOut
    sent.push(...result.sent)
  }
  for (const generator of generators) sent.push(...sentByGenerator(generator, cable, context, lanesRange))
  const channels = [...new Set(sent.map((each) => each.channel))].sort((a, b) => a - b)
  const printedTrackIds: string[] = []
  let next = project
  for (const channel of channels) {
    const parts = sent.filter((each) => each.channel === channel)
    const notes = parts.flatMap((part) => part.notes).sort(byOnset)
    let serial = next.nextSerial
    const clip = newClip(
      `clip-print-${serial++}`,
      'Printed',
      notes.map((note) => ({ ...note, id: serial++, channel })),
      { controllers: parts.flatMap((part) => part.controllers).sort((a, b) => a.tick - b.tick) },
    )
    const trackIds = [...new Set(parts.flatMap(({ fromTrackId }) => fromTrackId ?? []))]
    const created = newTrack(
      { ...next, nextSerial: serial },
      {
        name: nameWith(cable, channels.length > 1 ? `, channel ${channel}` : ', printed'),
        instrument: parts[0]!.instrument,
        isArmed: false,
        channel,
        madeFrom: trackIds.length === 0 ? null : { trackIds, by: 'printing' },
        clips: [clip],
      },
    )
    printedTrackIds.push(created.track.id)
    next = created.project
  }
  if (printedTrackIds.length === 0) return { project, printedTrackIds, leftOut }
  return {
    project: {
      ...next,
      tracks: next.tracks.map((track) =>
        tracks.includes(track) ? { ...track, isMuted: true, doEffectsRest: true } : track,
      ),
      generators: next.generators.map((generator) =>
        generators.includes(generator) ? { ...generator, isPlaying: false } : generator,
      ),
    },
    printedTrackIds,
    leftOut,
  }
}

/** What comes out of a track on its way to the cable: through its effects, its offset, on its channel or those it deals to. */
function sentByTrack(
  track: Track,
  context: MusicalContext,
  stretch: Stretch | null,
): { sent: Sent[]; leftOut: number } {
  const plan = chainOf(track)
  const printed = printChain(soundingNotes(track), plan, context, 0)
  const own = track.sendTo!.channel ?? track.channel
  const areDealt = track.sendTo!.channel === null && addressedChannels(plan.slots) !== null
  const later = (tick: Ticks) => context.tempoMap.shifted(tick, track.offsetMs)
  const byChannel = new Map<number, Note[]>()
  for (const note of printed.notes) {
    const onsetTicks = later(note.onsetTicks)
    if (!isWithin(stretch, onsetTicks)) continue
    const channel = areDealt ? note.channel : own
    const durationTicks = Math.max(1, later(noteEndTicks(note)) - onsetTicks)
    byChannel.set(channel, [...(byChannel.get(channel) ?? []), { ...note, onsetTicks, durationTicks }])
  }
  // The track's own curves go out on its channel; those that effects make, with the voice they belong to.
  const controllers = [
    ...soundingControllers(track).map((event) => ({ ...event, channel: own })),
    ...printed.controllers.map((event) => ({ ...event, channel: areDealt ? event.channel : own })),
  ]
    .filter((event) => event.kind !== 'program')
    .map((event) => ({ ...event, tick: later(event.tick) }))
    .filter((event) => isWithin(stretch, event.tick))
  const sent = [...byChannel].map(([channel, notes]) => ({
    fromTrackId: track.id,
    channel,
    instrument: track.instrument,
    notes,
    controllers: controllers.filter((event) => event.channel === channel),
  }))
  return { sent, leftOut: printed.leftOut }
}

function sentByGenerator(
  generator: Generator,
  cable: string,
  context: MusicalContext,
  { startTicks, endTicks }: Stretch,
): Sent[] {
  const made = notesBetween(generator, context, startTicks, endTicks).filter((note) => note.cable === cable)
  return streamsOf(generator).flatMap((stream): Sent[] => {
    const part = made.filter((note) => note.channel === stream.channel)
    if (part.length === 0) return []
    return [
      {
        fromTrackId: null,
        channel: stream.channel,
        instrument: instrumentOf(stream),
        notes: notesOfGenerated(part, 0),
        controllers: [],
      },
    ]
  })
}
