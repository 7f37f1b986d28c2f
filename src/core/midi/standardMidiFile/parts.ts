import { percussionChannel, programNames } from '../generalMidi'
import { pairNotes } from '../notePairs'
import type { MidiFile, MidiFileEvent } from './model'

/** A note of a file, in the file's own ticks. */
export interface FileNote {
  readonly onTick: number
  readonly offTick: number
  readonly key: number
  readonly velocity: number
  readonly releaseVelocity: number
}

/** What one channel of one track of a file holds: the smallest thing that is surely one part. */
export interface FilePart {
  readonly name: string
  /** Counted from 0. */
  readonly trackIndex: number
  readonly channel: number
  /** The first program set; null where none is. */
  readonly program: number | null
  readonly notes: readonly FileNote[]
  readonly hangingNotes: number
  readonly overlappingNotes: number
  readonly strayNoteOffs: number
  /** All channel events but notes, in order. */
  readonly others: readonly MidiFileEvent[]
}

/** Channel events by track and channel, tracks first, channels in order. */
export function filePartEvents(
  file: MidiFile,
): { trackIndex: number; channel: number; events: MidiFileEvent[] }[] {
  const parts: { trackIndex: number; channel: number; events: MidiFileEvent[] }[] = []
  for (const [trackIndex, track] of file.tracks.entries()) {
    const byChannel = new Map<number, MidiFileEvent[]>()
    for (const event of track.events) {
      if (!('channel' in event)) continue
      const events = byChannel.get(event.channel)
      if (events) events.push(event)
      else byChannel.set(event.channel, [event])
    }
    for (const channel of [...byChannel.keys()].sort((a, b) => a - b))
      parts.push({ trackIndex, channel, events: byChannel.get(channel)! })
  }
  return parts
}

/**
 * The parts of a file: one for each track and channel with notes, named after the track, else the program. A note
 * without a note-off is ended at the end of its track and counted as hanging.
 */
export function fileParts(file: MidiFile): FilePart[] {
  const groups = filePartEvents(file)
  const parts: FilePart[] = []
  for (const { trackIndex, channel, events } of groups) {
    const track = file.tracks[trackIndex]!
    const { pairs, hangingNotes, overlappingNotes, strayNoteOffs } = pairNotes(
      events as readonly Parameters<typeof pairNotes>[0][number][],
    )
    if (pairs.length === 0) continue
    const notes = pairs.map(({ onIndex, offIndex }): FileNote => {
      const on = events[onIndex]!
      const off = offIndex < 0 ? undefined : events[offIndex]
      if (on.type !== 'noteOn') throw new Error('A pair begins with a note-on')
      return {
        onTick: on.tick,
        offTick: off ? off.tick : Math.max(track.endTick, on.tick),
        key: on.key,
        velocity: on.velocity,
        releaseVelocity: off?.type === 'noteOff' ? off.velocity : 64,
      }
    })
    const programEvent = events.find((event) => event.type === 'program')
    const program = programEvent?.type === 'program' ? programEvent.program : null
    const sharesTrack = groups.some((group) => group.trackIndex === trackIndex && group.channel !== channel)
    parts.push({
      name: partName(trackName(track.events), sharesTrack, channel, program),
      trackIndex,
      channel,
      program,
      notes,
      hangingNotes,
      overlappingNotes,
      strayNoteOffs,
      others: events.filter((event) => event.type !== 'noteOn' && event.type !== 'noteOff'),
    })
  }
  return parts
}

export function trackName(events: readonly MidiFileEvent[]): string {
  const named = events.find((event) => event.type === 'trackName')
  return named?.type === 'trackName' ? named.text.trim() : ''
}

function partName(name: string, sharesTrack: boolean, channel: number, program: number | null): string {
  const instrument =
    channel === percussionChannel ? 'Drums' : program === null ? `Channel ${channel}` : programNames[program]!
  if (name === '') return instrument
  return sharesTrack ? `${name}, ${instrument}` : name
}

/** Events that hold for the whole piece, from all tracks, in order: tempo, meter, key. */
export function conductorEvents(file: MidiFile): MidiFileEvent[] {
  return file.tracks
    .flatMap((track) => track.events)
    .filter((event) => event.type === 'tempo' || event.type === 'meter' || event.type === 'keySignature')
    .sort((a, b) => a.tick - b.tick)
}

/** Position of the last end of track. */
export function durationTicks(file: MidiFile): number {
  return file.tracks.reduce((longest, track) => Math.max(longest, track.endTick), 0)
}
