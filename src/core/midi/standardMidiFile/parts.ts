import { percussionChannel, programNames, rhythmBanks } from '../generalMidi'
import { usualReleaseVelocity } from '../message'
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

/** The channel events of one track and channel, with what they are called. */
export interface FileStream {
  readonly trackIndex: number
  readonly channel: number
  readonly name: string
  readonly program: number | null
  readonly noteCount: number
  readonly events: readonly MidiFileEvent[]
}

/** Channel events by track and channel, tracks first, channels in order; named after the track, else the program. */
export function fileStreams(file: MidiFile): FileStream[] {
  return file.tracks.flatMap((track, trackIndex) => {
    const byChannel: MidiFileEvent[][] = Array.from({ length: 17 }, () => [])
    for (const event of track.events) if ('channel' in event) byChannel[event.channel]!.push(event)
    const channels = byChannel.flatMap((events, channel) => (events.length > 0 ? [channel] : []))
    const own = trackName(track.events)
    return channels.map((channel) => {
      const events = byChannel[channel]!
      let noteCount = 0
      let program: number | null = null
      for (const event of events) {
        if (event.type === 'noteOn') noteCount++
        else if (event.type === 'program' && program === null) program = event.program
      }
      const name = partName(own, channels.length > 1, channel, program)
      return { trackIndex, channel, name, program, noteCount, events }
    })
  })
}

/**
 * The parts of a file: one for each track and channel with notes. A note without a note-off is ended by the next stroke of
 * its key, else at the end of its track, and counted as hanging.
 */
export function fileParts(file: MidiFile): FilePart[] {
  return fileStreams(file)
    .filter((stream) => stream.noteCount > 0)
    .map(({ trackIndex, channel, name, program, events }) => {
      const { pairs, ...counts } = pairNotes(
        events as Parameters<typeof pairNotes>[0],
        (index) => events[index]!.tick,
      )
      const { endTick } = file.tracks[trackIndex]!
      const notes = pairs.map(({ onIndex, offIndex }): FileNote => {
        const on = events[onIndex]!
        const off = offIndex < 0 ? undefined : events[offIndex]
        if (on.type !== 'noteOn') throw new Error('A pair begins with a note-on')
        return {
          onTick: on.tick,
          offTick: off ? off.tick : Math.max(endTick, on.tick),
          key: on.key,
          velocity: on.velocity,
          releaseVelocity: off?.type === 'noteOff' ? off.velocity : usualReleaseVelocity,
        }
      })
      const others = events.filter((event) => event.type !== 'noteOn' && event.type !== 'noteOff')
      return { name, trackIndex, channel, program, notes, ...counts, others }
    })
}

/** What a track is called; where it has no name, what its instrument is. */
export function trackName(events: readonly MidiFileEvent[]): string {
  for (const wanted of ['trackName', 'instrumentName'] as const)
    for (const event of events)
      if (event.type === wanted && event.text.trim() !== '') return event.text.trim()
  return ''
}

function partName(name: string, sharesTrack: boolean, channel: number, program: number | null): string {
  const instrument =
    channel === percussionChannel ? 'Drums' : program === null ? `Channel ${channel}` : programNames[program]!
  if (name === '') return instrument
  const saidOnce = withoutRepetition(name)
  const isSaid = saidOnce.toLowerCase().includes(instrument.toLowerCase())
  return sharesTrack && !isSaid ? `${saidOnce}, ${instrument}` : saidOnce
}

/**
 * A name that says the same twice, as some programs write part and instrument: "Piano, Piano".
 *
 * @example withoutRepetition('Piano, Piano') // 'Piano'
 */
function withoutRepetition(name: string): string {
  const words = name.split(/\s*[,;:/|]\s*/)
  const isTwice = words.length === 2 && words[0]!.toLowerCase() === words[1]!.toLowerCase()
  return isTwice ? words[0]! : name
}

const drumWords =
  /\b(drums?|drum ?(set|kit)|drumset|drumkit|percussion|perc|snare|cymbals?|hi-?hats?|toms?|kick)\b/i

/**
 * Whether a part is played on drums: on the percussion channel (General MIDI), on a channel whose bank is a rhythm bank, or
 * named so where its program says nothing else.
 */
export function isRhythmPart({ channel, program, name, others }: FilePart): boolean {
  if (channel === percussionChannel) return true
  const bank = others.find((event) => event.type === 'controller' && event.number === 0)
  if (bank?.type === 'controller' && rhythmBanks.includes(bank.value)) return true
  return (program === null || program === 0) && drumWords.test(name)
}

/** Events that hold for the whole piece, from all tracks, in order: tempo, meter, key, markers. */
export function conductorEvents(file: MidiFile): MidiFileEvent[] {
  return file.tracks
    .flatMap((track) => track.events)
    .filter((event) => isOfThePiece(event))
    .sort((a, b) => a.tick - b.tick)
}

const isOfThePiece = ({ type }: MidiFileEvent) =>
  type === 'tempo' || type === 'meter' || type === 'keySignature' || type === 'marker'

/** Position of the last end of track. */
export function durationTicks(file: MidiFile): number {
  return file.tracks.reduce((longest, track) => Math.max(longest, track.endTick), 0)
}
