import type { ControllerEvent, Note } from '../event/note'
import type { ChannelMessage } from '../midi/message'
import type { MidiFile, MidiFileEvent, MidiFileTrack } from '../midi/standardMidiFile/model'
import { soundingControllers } from '../project/create'
import { type MidiPart, midiPartsOf } from '../project/midiParts'
import { type Project, type Track, type Words, wordKinds } from '../project/schema'
import { wordsOf } from '../project/words'
import { rescaleTicks, TICKS_PER_QUARTER } from '../time/units'

/** Divisions offered for files; 10,080 keeps every tick of the project. */
export const midiDivisions = [480, 960, 10_080] as const

/** Formats of files that are written: everything in one track, or a track for each part. */
export const midiFormats = [0, 1] as const
export type MidiFormat = (typeof midiFormats)[number]

/** A whole project as a format 1 file: a conductor track with name, tempi, meters and key, then the tracks. */
export function projectToMidi(
  project: Project,
  tracks: readonly Track[],
  division: number,
): Omit<MidiFile, 'warnings'> {
  const scale = (tick: number) => rescaleTicks(tick, TICKS_PER_QUARTER, division)
  const written = tracks.flatMap((track) =>
    midiPartsOf(track).map((part, index) =>
      // Words go with the first voice of their track.
      partToMidi(part, index === 0 ? wordsOf(project, track.id, wordKinds) : [], scale),
    ),
  )
  return {
    format: 1,
    divisionTicksPerQuarter: division,
    tracks: [conductorTrack(project, scale), ...written],
  }
}

/** The same with all tracks in one (format 0): channels tell parts apart, names of single tracks are left out. */
export function inOneTrack(file: Omit<MidiFile, 'warnings'>): Omit<MidiFile, 'warnings'> {
  const [conductor, ...others] = file.tracks
  const events = [
    ...(conductor?.events ?? []),
    ...others.flatMap((track) => track.events.filter(({ type }) => type !== 'trackName')),
  ]
  // What ends at a tick ends before anything begins there; else the order is kept.
  const rank = ({ type }: MidiFileEvent) => (type === 'noteOff' ? 0 : type === 'noteOn' ? 2 : 1)
  const sorted = events
    .map((event, index) => ({ event, index }))
    .sort((a, b) => a.event.tick - b.event.tick || rank(a.event) - rank(b.event) || a.index - b.index)
    .map(({ event }) => event)
  return {
    ...file,
    format: 0,
    tracks: [{ events: sorted, endTick: Math.max(0, ...file.tracks.map(({ endTick }) => endTick)) }],
  }
}

function conductorTrack(project: Project, scale: (tick: number) => number): MidiFileTrack {
  const events: MidiFileEvent[] = [{ tick: 0, type: 'trackName', text: project.name }]
  for (const tempo of project.tempos)
    events.push({
      tick: scale(tempo.tick),
      type: 'tempo',
      microsecondsPerQuarter: Math.round(6e7 / tempo.tempoBpm),
    })
  for (const meter of project.meters)
    events.push({
      tick: scale(meter.tick),
      type: 'meter',
      numerator: meter.numerator,
      denominator: meter.denominator,
      clocksPerClick: Math.max(1, Math.round(96 / meter.denominator)),
      thirtySecondsPerQuarter: 8,
    })
  for (const section of project.sections)
    events.push({ tick: scale(section.tick), type: 'marker', text: section.name })
  if (project.rights) events.push({ tick: 0, type: 'copyright', text: project.rights })
  if (project.composer) events.push({ tick: 0, type: 'text', text: `Composer: ${project.composer}` })
  events.push(...textEvents(wordsOf(project, null, wordKinds), scale))
  for (const { tick, fifths, mode } of project.keys)
    events.push({ tick: scale(tick), type: 'keySignature', fifths, mode })
  return { events, endTick: events.reduce((end, event) => Math.max(end, event.tick), 0) }
}

function textEvents(words: readonly Words[], scale: (tick: number) => number): MidiFileEvent[] {
  // These files have no event for chords: they are texts.
  return words.map(({ tick, kind, text }) => ({
    tick: scale(tick),
    type: kind === 'chord' ? 'text' : kind,
    text,
  }))
}

function partToMidi(
  { name, track, notes }: MidiPart,
  words: readonly Words[],
  scale: (tick: number) => number,
): MidiFileTrack {
  const channel = track.channel
  const events: MidiFileEvent[] = [{ tick: 0, type: 'trackName', text: name }]
  const program = track.instrument.kind === 'program' ? track.instrument.program : 0
  events.push({ tick: 0, type: 'program', channel, program })
  events.push({ tick: 0, type: 'controller', channel, number: 7, value: Math.round(track.volume * 127) })
  events.push({ tick: 0, type: 'controller', channel, number: 10, value: Math.round(64 + track.pan * 63) })
  if (track.tuningCents !== 0) events.push(...fineTuning(channel, track.tuningCents))
  events.push(...textEvents(words, scale))
  for (const controller of soundingControllers(track))
    events.push({ tick: scale(controller.tick), ...controllerMessage(controller, channel) })
  for (const note of notes) events.push(...noteMessages(note, channel, scale))
  return { events, endTick: events.reduce((end, event) => Math.max(end, event.tick), 0) }
}

/** Registered parameter 1, channel fine tuning: 14 bits over a semitone either way, 8,192 in the middle (MIDI 1.0). */
function fineTuning(channel: number, cents: number): MidiFileEvent[] {
  const value = Math.max(0, Math.min(16_383, Math.round(8192 + (cents / 100) * 8192)))
  const set = (number: number, to: number): MidiFileEvent => ({
    tick: 0,
    type: 'controller',
    channel,
    number,
    value: to,
  })
  return [set(101, 0), set(100, 1), set(6, value >> 7), set(38, value & 127), set(101, 127), set(100, 127)]
}

function noteMessages(note: Note, channel: number, scale: (tick: number) => number): MidiFileEvent[] {
  const onTick = scale(note.onsetTicks)
  const offTick = Math.max(onTick + 1, scale(note.onsetTicks + note.durationTicks))
  return [
    { tick: onTick, type: 'noteOn', channel, key: note.key, velocity: note.velocity },
    { tick: offTick, type: 'noteOff', channel, key: note.key, velocity: note.releaseVelocity },
  ]
}

export function controllerMessage(event: ControllerEvent, channel: number): ChannelMessage {
  switch (event.kind) {
    case 'controller':
      return { type: 'controller', channel, number: event.number, value: event.value }
    case 'bend':
      return { type: 'bend', channel, value: event.value }
    case 'channelPressure':
      return { type: 'channelPressure', channel, value: event.value }
    case 'keyPressure':
      return { type: 'keyPressure', channel, key: event.number, value: event.value }
    case 'program':
      return { type: 'program', channel, program: event.value }
  }
}
