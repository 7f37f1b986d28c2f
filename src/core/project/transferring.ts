import { clicksBetween } from '../capture/click'
import type { Note, NoteId, StaffNumber } from '../event/note'
import { percussionChannel } from '../midi/generalMidi'
import { writtenTicks } from '../notation/plainSound'
import type { Ticks } from '../time/units'
import { asWritten } from './asWritten'
import { contextOf } from './context'
import { newClip, newTrack, soundingControllers, soundingNotes } from './create'
import { playingEndTicks } from './printing'
import type { Project, Track } from './schema'

/** Parts that are played over a port or cable into another program. */
export interface Transfer {
  readonly portId: string
  readonly trackIds: readonly string[]
  /** As they were played, or each note at its written place for its whole value. */
  readonly manner: 'played' | 'written'
  /** A part on two staves sends each on a channel of its own, so that the staves arrive whatever the receiver's rule is. */
  readonly dividesStaves: boolean
  /** Clock, start, stop and position go along. */
  readonly withClock: boolean
  /** The click counts so many bars before, where there is one. */
  readonly countInBars: number
  /** null: no click is sent. */
  readonly click: { readonly channel: number; readonly goesOn: boolean } | null
}

/** What one staff, or a whole part, is sent on. */
export interface TransferLine {
  readonly trackId: string
  readonly staff: StaffNumber | null
  /** 1–16. */
  readonly channel: number
}

/** The notes of the page as plainly as they can be sent, by track, each with its staff where its part has two. */
export type PlainParts = ReadonlyMap<string, readonly Note[]>

/**
 * Channels of what is sent, in the order of the parts: percussion has its own, and no two share one as long as there are enough.
 * The channel of the click is left to it.
 */
export function transferLines(
  { tracks }: Pick<Project, 'tracks'>,
  { trackIds, dividesStaves, click }: Transfer,
  plain: PlainParts,
): TransferLine[] {
  const melodic = Array.from({ length: 16 }, (_, index) => index + 1).filter(
    (channel) => channel !== percussionChannel && channel !== click?.channel,
  )
  let next = 0
  const free = () => melodic[next++ % melodic.length]!
  return tracks
    .filter(({ id }) => trackIds.includes(id))
    .flatMap((track): TransferLine[] => {
      if (track.instrument.kind === 'drums')
        return [{ trackId: track.id, staff: null, channel: percussionChannel }]
      const isOnTwo = new Set(plain.get(track.id)?.map(({ staff }) => staff ?? 1)).size > 1
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
 *
 * @param project as it is heard
 */
export function transferring(project: Project, transfer: Transfer, plain: PlainParts): Project {
  const lines = transferLines(project, transfer, plain)
  const isWritten = transfer.manner === 'written'
  const source = isWritten ? asWritten(project, plain) : project
  const sent = (track: Track, { staff, channel }: TransferLine, isFirst: boolean): Track => {
    const staffOf = new Map<NoteId, StaffNumber>(
      plain.get(track.id)?.map((note) => [note.id, note.staff ?? 1]) ?? [],
    )
    const isHere = (note: Note) => staff === null || (staffOf.get(note.id) ?? note.staff ?? 1) === staff
    const notes = soundingNotes(track).filter(isHere)
    const controllers = isWritten ? [] : soundingControllers(track)
    return {
      ...track,
      id: isFirst ? track.id : `${track.id} staff ${staff}`,
      instrument: { kind: 'none' },
      isMuted: false,
      isSolo: false,
      snapping: null,
      // The page is written before effects.
      ...(isWritten && { effects: [], effectChanges: [] }),
      ...(isWritten && { offsetMs: 0 }),
      sendTo: { portId: transfer.portId, channel },
      clips: [newClip(`sent ${track.id} ${channel}`, 'Sent', notes, { controllers })],
    }
  }
  const tracks = source.tracks.flatMap((track): Track[] => {
    const own = lines.filter(({ trackId }) => trackId === track.id)
    if (own.length === 0) return [{ ...track, isMuted: true, isSolo: false, sendTo: null }]
    return own.map((line, index) => sent(track, line, index === 0))
  })
  const { clock, click } = project
  const sendsClock = transfer.withClock && !clock.sendTo.includes(transfer.portId)
  const all: Project = {
    ...project,
    tracks,
    generators: [],
    clock: sendsClock ? { ...clock, sendTo: [...clock.sendTo, transfer.portId] } : clock,
    ...(transfer.click && {
      click: { ...click, isOn: true, portId: transfer.portId, channel: transfer.click.channel },
    }),
  }
  return transfer.click?.goesOn ? withClickTrack(all, transfer.click.channel, transfer.portId) : all
}

/** Through the whole piece, the click is a track that is sent. */
function withClickTrack(project: Project, channel: number, portId: string): Project {
  const endTicks = playingEndTicks(project) ?? 0
  const strokes = clicksBetween(contextOf(project).meterMap, 0, endTicks, project.click)
  const notes = strokes.map(
    ({ ticks, key, velocity }, index): Note => ({
      id: index + 1,
      onsetTicks: ticks,
      durationTicks: 420,
      key,
      velocity,
      releaseVelocity: 64,
      channel,
      origin: { kind: 'drawn' },
    }),
  )
  return newTrack(project, {
    name: 'Click',
    instrument: { kind: 'none' },
    sendTo: { portId, channel },
    isOnPage: false,
    clips: [newClip('sent click', 'Click', notes)],
  }).project
}

/** A note that a transfer sends, as its page has it. */
export interface SentNote {
  /** Of the staves that are sent, part by part. */
  readonly line: number
  readonly channel: number
  readonly key: number
  readonly onsetTicks: Ticks
  readonly valueTicks: Ticks
}

/** What should stand on the other page: a line for each staff of the parts that are sent, whatever channels they go on. */
export function sentLines(
  project: Pick<Project, 'tracks'>,
  transfer: Transfer,
  plain: PlainParts,
): { readonly names: readonly string[]; readonly notes: readonly SentNote[] } {
  const names: string[] = []
  const notes: SentNote[] = []
  for (const { trackId, staff, channel } of transferLines(project, transfer, plain)) {
    const { name } = project.tracks.find(({ id }) => id === trackId)!
    const own = plain.get(trackId) ?? []
    const staves = staff === null ? [...new Set(own.map((note) => note.staff ?? 1))].sort() : [staff]
    for (const each of staves) {
      const line = names.length
      const isOneOfTwo = staff !== null || staves.length > 1
      names.push(isOneOfTwo ? `${name}, ${each === 1 ? 'upper' : 'lower'} staff` : name)
      for (const note of own)
        if ((note.staff ?? 1) === each)
          notes.push({
            line,
            channel,
            key: note.key,
            onsetTicks: note.onsetTicks,
            valueTicks: writtenTicks(note),
          })
    }
  }
  return { names, notes }
}
