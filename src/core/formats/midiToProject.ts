import { FileProblem } from '../border/fileProblem'
import type { ControllerEvent, Note } from '../event/note'
import { programNames } from '../midi/generalMidi'
import { partWarnings } from '../midi/standardMidiFile/inspect'
import type { MidiFile, MidiFileEvent } from '../midi/standardMidiFile/model'
import {
  conductorEvents,
  type FilePart,
  fileParts,
  isRhythmPart,
  trackName,
} from '../midi/standardMidiFile/parts'
import { emptyProject, newClip, newTrack } from '../project/create'
import { mostKeyChanges, mostSections, type Project } from '../project/schema'
import { boundedName } from '../text/bounded'
import { lastTick, rescaleTicks, TICKS_PER_QUARTER } from '../time/units'
import { wordsFromMidi } from './midiWords'

/** More parts than this in one file are more than any score or screen can hold. */
export const mostImportedParts = 512

/** The file can be read, but not opened as a project. */
export class ImportError extends FileProblem {
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
  checkPositions(parts, file.divisionTicksPerQuarter, scale)
  const conductor = conductorEvents(file).filter((event) => scale(event.tick) <= lastTick)
  const title = trackName(file.tracks[0]!.events)
  const firstTrackHasNotes = parts.some((part) => part.trackIndex === 0)
  let project: Project = {
    ...emptyProject(identity.id, boundedName(identity.name), identity.nowMs),
    subtitle: firstTrackHasNotes ? '' : boundedName(title),
    ...conductorOf(conductor, scale),
  }
  for (const part of parts) project = addPart(project, part, scale)
  const trackIds = project.tracks.map(({ id }) => id)
  const words = wordsFromMidi(file, parts, trackIds, scale)
  project = { ...project, ...words.fields }
  const knowsTempo = conductor.some(({ type }) => type === 'tempo')
  return {
    project,
    warnings: [...file.warnings, ...partWarnings(parts), ...words.warnings, ...(knowsTempo ? [] : [noTempo])],
  }
}

const noTempo =
  'The file says no tempo: its bars are those of 120 to the minute. Where they are not those of the music, let them be found (Tracks, “Bars”; in batch work: bars)'

/** @throws ImportError when a note lies further on than positions can be kept */
function checkPositions(parts: readonly FilePart[], division: number, scale: (tick: number) => number): void {
  let end = 0
  for (const part of parts) for (const note of part.notes) end = Math.max(end, note.offTick)
  if (scale(end) <= lastTick) return
  const quarter = Math.floor(end / division) + 1
  throw new ImportError(
    `A note lies at quarter ${quarter.toLocaleString('en')}; pieces of up to ${Math.floor(lastTick / TICKS_PER_QUARTER).toLocaleString('en')} quarters can be opened, 27 hours at 120 to the minute`,
  )
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
  const sections = new Map(
    conductor.flatMap((event) =>
      event.type === 'marker' && event.text.trim() !== ''
        ? [[scale(event.tick), { tick: scale(event.tick), name: boundedName(event.text) }]]
        : [],
    ),
  )
  const keys = conductor.flatMap((event) =>
    event.type === 'keySignature'
      ? [{ tick: scale(event.tick), fifths: event.fifths, mode: event.mode }]
      : [],
  )
  return {
    tempos: changesOf(tempos, (a, b) => Math.abs(a.tempoBpm - b.tempoBpm) < 0.005, {
      tick: 0,
      tempoBpm: 120,
    }),
    meters: changesOf(meters, (a, b) => a.numerator === b.numerator && a.denominator === b.denominator, {
      tick: 0,
      numerator: 4,
      denominator: 4 as Project['meters'][number]['denominator'],
    }),
    sections: [...sections.values()].slice(0, mostSections),
    keys:
      keys.length === 0
        ? []
        : changesOf(keys, (a, b) => a.fifths === b.fifths && a.mode === b.mode, keys[0]!).slice(
            0,
            mostKeyChanges,
          ),
  }
}

/** The last of those at one place, and only where something changes: what is said again says nothing. */
function changesOf<Change extends { readonly tick: number }>(
  changes: readonly Change[],
  isSame: (a: Change, b: Change) => boolean,
  usual: Change,
): Change[] {
  const kept: Change[] = []
  for (const change of changes) {
    if (kept.at(-1)?.tick === change.tick) kept.pop()
    const before = kept.at(-1)
    if (!before || !isSame(before, change)) kept.push(change)
  }
  return kept.length > 0 ? kept : [usual]
}

function addPart(project: Project, part: FilePart, scale: (tick: number) => number): Project {
  const isDrums = isRhythmPart(part)
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
    .filter((event) => scale(event.tick) <= lastTick)
    .flatMap((event) => controllerOf(event, scale(event.tick)))
  const withSerial = { ...project, nextSerial: serial }
  const clip = newClip(`clip-${serial}`, 'From the file', notes, { controllers })
  return newTrack(
    { ...withSerial, nextSerial: serial + 1 },
    {
      name: isDrums && part.name === programNames[part.program ?? -1] ? 'Drums' : boundedName(part.name),
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
