import type { Note, NoteId, StaffNumber } from '../event/note'
import { percussionChannel } from '../midi/generalMidi'
import { newClip, soundingControllers, soundingNotes } from './create'
import type { Project, Track } from './schema'

/** Parts that are played over a port or cable into another program. */
export interface Transfer {
  readonly portId: string
  readonly trackIds: readonly string[]
  /** A part on two staves sends each on a channel of its own, so that the staves arrive whatever the receiver's rule is. */
  readonly dividesStaves: boolean
  /** Clock, start, stop and position go along. */
  readonly withClock: boolean
}

/** What one staff, or a whole part, is sent on. */
export interface TransferLine {
  readonly trackId: string
  readonly staff: StaffNumber | null
  /** 1–16. */
  readonly channel: number
}

/** The staff that each note is written on, by track; a part on one staff need not be there. */
export type StavesOfNotes = ReadonlyMap<string, ReadonlyMap<NoteId, StaffNumber>>

/** Channels of what is sent, in the order of the parts: percussion has its own, and no two share one as long as there are enough. */
export function transferLines(
  { tracks }: Pick<Project, 'tracks'>,
  { trackIds, dividesStaves }: Transfer,
  staves: StavesOfNotes,
): TransferLine[] {
  const melodic = Array.from({ length: 16 }, (_, index) => index + 1).filter(
    (channel) => channel !== percussionChannel,
  )
  let next = 0
  const free = () => melodic[next++ % melodic.length]!
  return tracks
    .filter(({ id }) => trackIds.includes(id))
    .flatMap((track): TransferLine[] => {
      if (track.instrument.kind === 'drums')
        return [{ trackId: track.id, staff: null, channel: percussionChannel }]
      const isOnTwo = new Set(staves.get(track.id)?.values() ?? []).size > 1
      return dividesStaves && isOnTwo
        ? [
            { trackId: track.id, staff: 1, channel: free() },
            { trackId: track.id, staff: 2, channel: free() },
          ]
        : [{ trackId: track.id, staff: null, channel: free() }]
    })
}

/**
 * A piece that plays only what is sent, and that silently here: each line is a track that sends on its channel. Nothing of it is
 * stored.
 */
export function transferring(project: Project, transfer: Transfer, staves: StavesOfNotes): Project {
  const lines = transferLines(project, transfer, staves)
  const sent = (track: Track, { staff, channel }: TransferLine, isFirst: boolean): Track => {
    const staffOf = staves.get(track.id)
    const isHere = (note: Note) => staff === null || (staffOf?.get(note.id) ?? note.staff ?? 1) === staff
    const notes = soundingNotes(track).filter(isHere)
    const controllers = soundingControllers(track)
    return {
      ...track,
      id: isFirst ? track.id : `${track.id} staff ${staff}`,
      instrument: { kind: 'none' },
      isMuted: false,
      isSolo: false,
      snapping: null,
      sendTo: { portId: transfer.portId, channel },
      clips: [newClip(`sent ${track.id} ${channel}`, 'Sent', notes, { controllers })],
    }
  }
  const tracks = project.tracks.flatMap((track): Track[] => {
    const own = lines.filter(({ trackId }) => trackId === track.id)
    if (own.length === 0) return [{ ...track, isMuted: true, isSolo: false }]
    return own.map((line, index) => sent(track, line, index === 0))
  })
  const { clock } = project
  const sendsClock = transfer.withClock && !clock.sendTo.includes(transfer.portId)
  return {
    ...project,
    tracks,
    generators: [],
    clock: sendsClock ? { ...clock, sendTo: [...clock.sendTo, transfer.portId] } : clock,
  }
}
