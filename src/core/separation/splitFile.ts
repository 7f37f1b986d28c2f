import { percussionChannel } from '../midi/generalMidi'
import type { MidiFile, MidiFileEvent, MidiFileTrack } from '../midi/standardMidiFile/model'
import {
  durationTicks,
  type FilePart,
  fileParts,
  fileStreams,
  isRhythmPart,
  trackName,
} from '../midi/standardMidiFile/parts'
import { tempoMapOf } from '../midi/standardMidiFile/tempoMap'
import type { TempoMap } from '../time/tempoMap'
import { rescaleTicks, TICKS_PER_QUARTER } from '../time/units'
import { takeApart, togetherQuartersAt, type Way } from './takeApart'

/** A part on a track of its own, with every event it had. */
export interface SeparatedPart {
  readonly name: string
  /** Of the track it comes from, counted from 0. */
  readonly trackIndex: number
  readonly channel: number
  readonly notes: number
  readonly track: MidiFileTrack
}

/**
 * Separates a file by channel: a conductor track with all that belongs to the whole piece, and one track for each
 * track and channel of the file. No event is dropped: what has no channel (tempo, meter, key, texts, exclusive
 * messages) stays in the conductor track.
 */
export function splitByChannel(file: MidiFile): { conductor: MidiFileTrack; parts: SeparatedPart[] } {
  const streams = fileStreams(file)
  const endTick = durationTicks(file)
  const title = trackName(file.tracks[0]?.events ?? [])
  const keepTitle = title !== '' && !streams.some((stream) => stream.trackIndex === 0)
  const conductor: MidiFileEvent[] = keepTitle ? [{ tick: 0, type: 'trackName', text: title }] : []
  for (const track of file.tracks)
    for (const event of track.events)
      if (!('channel' in event) && event.type !== 'trackName') conductor.push(event)
  conductor.sort((a, b) => a.tick - b.tick)
  const parts = streams.map(
    ({ trackIndex, channel, name, noteCount, events }): SeparatedPart => ({
      name,
      trackIndex,
      channel,
      notes: noteCount,
      track: {
        events: [{ tick: 0, type: 'trackName', text: name }, ...events],
        endTick: file.tracks[trackIndex]!.endTick,
      },
    }),
  )
  return { conductor: { events: conductor, endTick }, parts }
}

/** The ways a file has what they need for. */
export type FileWay = Exclude<Way, { readonly by: 'source' | 'told' }>

/** What a way of separation says of itself, besides the file. */
export interface SeparatedFile {
  /** Format 1, the conductor track first. */
  readonly file: Omit<MidiFile, 'warnings'>
  readonly parts: readonly (SeparatedPart & {
    readonly lowestKey: number | null
    readonly highestKey: number | null
  })[]
  /** Notes in, and how many of them might as well belong to another part. */
  readonly captured: number
  readonly unsure: number
}

/**
 * Separates a file by channel, or takes each of its channels apart further. Each part gets a track and, as far as there are
 * enough, a channel of its own, with every event of the channel it comes from.
 */
export function separateFile(file: MidiFile, way: FileWay): SeparatedFile {
  const { conductor, parts: streams } = splitByChannel(file)
  const fileNotes = new Map(fileParts(file).map((part) => [`${part.trackIndex} ${part.channel}`, part]))
  const tempoMap = tempoMapOf(file)
  const channels = freeChannels()
  let unsure = 0
  const parts = streams.flatMap((stream): SeparatedPart[] => {
    const part = fileNotes.get(`${stream.trackIndex} ${stream.channel}`)
    if (!part || way.by === 'channel' || (way.by === 'drum') !== isRhythmPart(part)) return [stream]
    const apart = takeFilePartApart(part, way, file.divisionTicksPerQuarter, tempoMap)
    unsure += apart.unsure
    if (apart.parts.length === 1) return [stream]
    return apart.parts.map(({ name, events, notes }) => {
      const channel = way.by === 'drum' ? stream.channel : channels.next().value
      const own = events.map((event) => ('channel' in event ? { ...event, channel } : event))
      const partName = `${stream.name}, ${name}`
      return {
        name: partName,
        trackIndex: stream.trackIndex,
        channel,
        notes,
        track: { ...stream.track, events: [{ tick: 0, type: 'trackName', text: partName }, ...own] },
      }
    })
  })
  return {
    file: {
      format: 1,
      divisionTicksPerQuarter: file.divisionTicksPerQuarter,
      tracks: [conductor, ...parts.map((part) => part.track)],
    },
    parts: parts.map((part) => ({ ...part, ...rangeOf(part.track.events) })),
    captured: streams.reduce((sum, { notes }) => sum + notes, 0),
    unsure,
  }
}

/** Channels for new parts: all but the drums', again and again. */
function* freeChannels(): Generator<number, never> {
  for (let channel = 1; ; channel = (channel % 16) + 1) if (channel !== percussionChannel) yield channel
}

function takeFilePartApart(part: FilePart, way: FileWay, division: number, tempoMap: TempoMap) {
  const { notes, others, channel } = part
  const middleTick = notes[notes.length >> 1]!.onTick
  const tempoBpm = tempoMap.tempoAt(rescaleTicks(middleTick, division, TICKS_PER_QUARTER))
  const apart = takeApart(
    notes.map(({ onTick, offTick, key, velocity }) => ({
      onsetQuarters: onTick / division,
      endQuarters: offTick / division,
      key,
      velocity,
    })),
    way,
    togetherQuartersAt(tempoBpm),
  )
  const parts = apart.parts.map(({ name, members }) => {
    const own = members.flatMap((member): RankedEvent[] => {
      const { onTick, offTick, key, velocity, releaseVelocity } = notes[member]!
      const endRank = offTick > onTick ? rank.noteOff : rank.endOfNoLength
      return [
        { event: { tick: onTick, type: 'noteOn', channel, key, velocity }, rank: rank.noteOn },
        { event: { tick: offTick, type: 'noteOff', channel, key, velocity: releaseVelocity }, rank: endRank },
      ]
    })
    const all = [...others.map((event) => ({ event, rank: rank.other })), ...own]
    all.sort((a, b) => a.event.tick - b.event.tick || a.rank - b.rank)
    return { name, notes: members.length, events: all.map(({ event }) => event) }
  })
  return { parts, unsure: apart.unsure.length }
}

interface RankedEvent {
  readonly event: MidiFileEvent
  readonly rank: number
}

/** At one moment keys go up first, then everything else comes, then keys go down. */
const rank = { noteOff: 0, other: 1, noteOn: 2, endOfNoLength: 3 } as const

function rangeOf(events: readonly MidiFileEvent[]): { lowestKey: number | null; highestKey: number | null } {
  let [lowest, highest] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (const event of events)
    if (event.type === 'noteOn') {
      lowest = Math.min(lowest, event.key)
      highest = Math.max(highest, event.key)
    }
  return lowest > highest ? { lowestKey: null, highestKey: null } : { lowestKey: lowest, highestKey: highest }
}

/** One file for each part, all starting at bar 1 with the tempi and meters of the whole piece. */
export function stemFiles(
  file: MidiFile,
): { fileName: string; part: SeparatedPart; file: Omit<MidiFile, 'warnings'> }[] {
  const { conductor, parts } = splitByChannel(file)
  return parts.map((part, index) => ({
    fileName: `${String(index + 1).padStart(2, '0')} ${safeFileName(part.name)}.mid`,
    part,
    file: {
      format: 1,
      divisionTicksPerQuarter: file.divisionTicksPerQuarter,
      tracks: [conductor, part.track],
    },
  }))
}

/** A name that any file system takes: no separators, no control characters, not empty, at most 80 characters. */
export function safeFileName(name: string): string {
  const cleaned = name
    .normalize('NFC')
    // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is taken out
    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]+/g, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[. ]+|[. ]+$/g, '')
  return [...cleaned].slice(0, 80).join('') || 'untitled'
}
