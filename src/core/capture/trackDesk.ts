import { byOnset, type ControllerEvent, type Note } from '../event/note'
import { eventsToRest } from '../event/resting'
import type { ChannelMessage } from '../midi/message'
import { keyOf, type Listener, Router, shapeMessage } from '../routing/route'
import type { Ticks } from '../time/units'
import type { PlayedNote } from './playedNotes'
import type { TakePlacement } from './takePlacement'

export interface RecordedTrack {
  readonly trackId: string
  readonly notes: readonly Note[]
  readonly controllers: readonly ControllerEvent[]
}

/** A note on its way to the tracks. */
export type SoundingNote = Omit<PlayedNote, 'stream' | 'isEndedAtStop'>

export type ControlMessage = Exclude<ChannelMessage, { type: 'noteOn' | 'noteOff' }>

/** Anything but a note on its way to the tracks. */
export interface PlacedControl {
  readonly portId: string
  readonly tick: Ticks
  readonly message: ControlMessage
}

/** Puts what sources send on the tracks that hear it, as their routes shape it. */
export class TrackDesk {
  private readonly router: Router<Listener>
  private readonly notes: ReadonlyMap<string, Note[]>
  private readonly controllers: ReadonlyMap<string, ControllerEvent[]>
  private readonly reached = new Set<number>()

  /** @param nextNoteId the first free note id */
  constructor(
    private readonly tracks: readonly Listener[],
    private readonly placement: Pick<TakePlacement, 'takeSerial'>,
    public nextNoteId: number,
  ) {
    this.router = new Router(tracks)
    this.notes = new Map(tracks.map((track) => [track.id, []]))
    this.controllers = new Map(tracks.map((track) => [track.id, []]))
  }

  placeNote({
    portId,
    eventIndex,
    onsetTicks,
    durationTicks,
    releaseVelocity,
    ...played
  }: SoundingNote): void {
    for (const { track, route } of this.router.reachOf(portId, played.channel, played.key)) {
      const shaped = shapeMessage({ type: 'noteOn', ...played }, route)
      if (shaped?.type !== 'noteOn') continue
      this.reached.add(eventIndex)
      this.notes.get(track.id)!.push({
        id: this.nextNoteId++,
        onsetTicks,
        durationTicks,
        key: shaped.key,
        velocity: shaped.velocity,
        releaseVelocity,
        channel: shaped.channel,
        origin: { kind: 'played', takeSerial: this.placement.takeSerial, eventIndex },
      })
    }
  }

  placeControl({ portId, tick, message }: PlacedControl): void {
    for (const { track, route } of this.router.reachOf(portId, message.channel, keyOf(message))) {
      const shaped = shapeMessage(message, route)
      if (shaped && shaped.type !== 'noteOn' && shaped.type !== 'noteOff')
        this.controllers.get(track.id)!.push(controllerOf(shaped, tick))
    }
  }

  /** Whether something of what was played with a note-on is on a track. */
  hasReached(eventIndex: number): boolean {
    return this.reached.has(eventIndex)
  }

  /** Tracks with something on them. A pedal still down at the end goes up there, as keys do. */
  recorded(endTicks: Ticks): RecordedTrack[] {
    return this.tracks
      .map(({ id }) => {
        const controllers = this.controllers.get(id)!
        return {
          trackId: id,
          notes: this.notes.get(id)!.sort(byOnset),
          controllers: [...controllers, ...eventsToRest(controllers, endTicks)],
        }
      })
      .filter(({ notes, controllers }) => notes.length > 0 || controllers.length > 0)
  }
}

function controllerOf(message: ControlMessage, tick: Ticks): ControllerEvent {
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
