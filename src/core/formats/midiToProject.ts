import type { ControllerEvent, Note } from '../event/note'
import { percussionChannel } from '../midi/generalMidi'
import { partWarnings } from '../midi/standardMidiFile/inspect'
import type { MidiFile, MidiFileEvent } from '../midi/standardMidiFile/model'
import { conductorEvents, type FilePart, fileParts, trackName } from '../midi/standardMidiFile/parts'
import { emptyProject, newClip, newTrack } from '../project/create'
import type { Project } from '../project/schema'
import { boundedName } from '../text/bounded'
import { rescaleTicks, TICKS_PER_QUARTER } from '../time/units'

/** More parts than this in one file are more than any score or screen can hold. */
export const mostImportedParts = 512

/** The file can be read, but not opened as a project. */
export class ImportError extends Error {
  override name = 'ImportError'
}

/**
 * Opens a Standard MIDI File as a project: one track for each track and channel with notes, with names, programs,
 * tempo, meter and key. Onsets and lengths are as in the file; nothing is snapped.
 *
 * @throws ImportError when the file has no notes, or more parts than can be opened
 */
export function midiToProject(
  file: MidiFile,
  identity: { id: string; name: string; nowMs: number },
): { project: Project; warnings: string[] } {
  const parts = fileParts(file)
  if (parts.length === 0) throw new ImportError('The file can be read, but there is no note in it')
  if (parts.length > mostImportedParts)
    throw new ImportError(
      `The file has ${parts.length.toLocaleString('en')} tracks with notes; up to ${mostImportedParts} can be opened at once. The command "unbroken stems" takes it apart into one file for each`,
    )
  const scale = (tick: number) => rescaleTicks(tick, file.divisionTicksPerQuarter, TICKS_PER_QUARTER)
  const conductor = conductorEvents(file)
  const title = trackName(file.tracks[0]!.events)
  const firstTrackHasNotes = parts.some((part) => part.trackIndex === 0)
  let project: Project = {
    ...emptyProject(identity.id, boundedName(identity.name), identity.nowMs),
    subtitle: firstTrackHasNotes ? '' : boundedName(title),
    ...conductorOf(conductor, scale),
  }
  for (const part of parts) project = addPart(project, part, scale)
  return { project, warnings: [...file.warnings, ...partWarnings(parts)] }
}

function conductorOf(conductor: readonly MidiFileEvent[], scale: (tick: number) => number) {
  const tempos = conductor.flatMap((event) =>
    event.type === 'tempo'
      ? [
          {
            tick: scale(event.tick),
            tempoBpm: Math.min(1000, Math.max(4, 6e7 / event.microsecondsPerQuarter)),
          },
        ]
      : [],
  )
  const meters = conductor.flatMap((event) =>
    event.type === 'meter'
      ? [
          {
            tick: scale(event.tick),
            numerator: Math.min(64, event.numerator),
            denominator: event.denominator as Project['meters'][number]['denominator'],
          },
        ]
      : [],
  )
  const key = conductor.find((event) => event.type === 'keySignature')
  return {
    tempos: tempos.length > 0 ? tempos : [{ tick: 0, tempoBpm: 120 }],
    meters: meters.length > 0 ? meters : [{ tick: 0, numerator: 4, denominator: 4 as const }],
    key: key?.type === 'keySignature' ? { fifths: key.fifths, mode: key.mode } : null,
  }
}

function addPart(project: Project, part: FilePart, scale: (tick: number) => number): Project {
  const isDrums = part.channel === percussionChannel
  let serial = project.nextSerial
  const notes = part.notes
    .map((note, eventIndex): Note => {
      const onsetTicks = scale(note.onTick)
      return {
        id: 0,
        onsetTicks,
        durationTicks: Math.max(1, scale(note.offTick) - onsetTicks),
        key: note.key,
        velocity: note.velocity,
        releaseVelocity: note.releaseVelocity,
        channel: part.channel,
        origin: { kind: 'imported', eventIndex },
      }
    })
    .sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key)
    .map((note) => ({ ...note, id: serial++ }))
  const firstOnset = part.notes.reduce(
    (first, note) => Math.min(first, note.onTick),
    Number.POSITIVE_INFINITY,
  )
  const volume = initialController(part.others, 7, firstOnset)
  const pan = initialController(part.others, 10, firstOnset)
  const program = part.others.find((event) => event.type === 'program')
  const controllers = part.others
    .filter((event) => event !== volume && event !== pan && event !== program)
    .flatMap((event) => controllerOf(event, scale(event.tick)))
  const withSerial = { ...project, nextSerial: serial }
  const clip = newClip(`clip-${serial}`, 'From the file', notes, { controllers })
  return newTrack(
    { ...withSerial, nextSerial: serial + 1 },
    {
      name: boundedName(part.name),
      instrument: isDrums ? { kind: 'drums' } : { kind: 'program', program: part.program ?? 0 },
      channel: part.channel,
      isArmed: false,
      clips: [clip],
      ...(volume ? { volume: volume.value / 127 } : {}),
      ...(pan ? { pan: Math.max(-1, (pan.value - 64) / 63) } : {}),
    },
  ).project
}

/** The controller that sets a level once, before anything sounds; one that moves later stays a curve. */
function initialController(events: readonly MidiFileEvent[], number: number, firstOnset: number) {
  const all = events.filter((event) => event.type === 'controller' && event.number === number)
  const only = all.length === 1 ? all[0] : undefined
  return only?.type === 'controller' && only.tick <= firstOnset ? only : undefined
}

function controllerOf(event: MidiFileEvent, tick: number): ControllerEvent[] {
  switch (event.type) {
    case 'controller':
      return [{ tick, channel: event.channel, kind: 'controller', number: event.number, value: event.value }]
    case 'bend':
      return [{ tick, channel: event.channel, kind: 'bend', number: 0, value: event.value }]
    case 'channelPressure':
      return [{ tick, channel: event.channel, kind: 'channelPressure', number: 0, value: event.value }]
    case 'keyPressure':
      return [{ tick, channel: event.channel, kind: 'keyPressure', number: event.key, value: event.value }]
    case 'program':
      return [{ tick, channel: event.channel, kind: 'program', number: 0, value: event.program }]
    default:
      return []
  }
}
