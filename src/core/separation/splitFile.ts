import type { MidiFile, MidiFileEvent, MidiFileTrack } from '../midi/standardMidiFile/model'
import { durationTicks, fileStreams, trackName } from '../midi/standardMidiFile/parts'

/** A part on a track of its own, with every event it had. */
export interface SeparatedPart {
  readonly name: string
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

/** The separated file: format 1, the conductor track first. */
export function separatedFile(file: MidiFile): { file: Omit<MidiFile, 'warnings'>; parts: SeparatedPart[] } {
  const { conductor, parts } = splitByChannel(file)
  return {
    file: {
      format: 1,
      divisionTicksPerQuarter: file.divisionTicksPerQuarter,
      tracks: [conductor, ...parts.map((part) => part.track)],
    },
    parts,
  }
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
