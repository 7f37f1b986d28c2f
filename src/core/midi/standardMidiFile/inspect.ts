import type { MidiFile } from './model'
import { conductorEvents, durationTicks, fileParts } from './parts'

/** What is in a file, in the file's own ticks. */
export interface MidiFileReport {
  format: 0 | 1
  divisionTicksPerQuarter: number
  durationTicks: number
  tempos: { tick: number; bpm: number }[]
  meters: { tick: number; numerator: number; denominator: number }[]
  keys: { tick: number; fifths: number; mode: 'major' | 'minor' }[]
  /** One entry for each track and channel that has notes. */
  tracks: {
    name: string
    channel: number
    program: number | null
    notes: number
    lowestKey: number
    highestKey: number
    firstTick: number
    lastTick: number
  }[]
  notes: number
  hangingNotes: number
  warnings: string[]
}

export function inspectMidiFile(file: MidiFile): MidiFileReport {
  const conductor = conductorEvents(file)
  const parts = fileParts(file)
  return {
    format: file.format,
    divisionTicksPerQuarter: file.divisionTicksPerQuarter,
    durationTicks: durationTicks(file),
    tempos: conductor.flatMap((event) =>
      event.type === 'tempo'
        ? [{ tick: event.tick, bpm: Math.round(6e10 / event.microsecondsPerQuarter) / 1000 }]
        : [],
    ),
    meters: conductor.flatMap((event) =>
      event.type === 'meter'
        ? [{ tick: event.tick, numerator: event.numerator, denominator: event.denominator }]
        : [],
    ),
    keys: conductor.flatMap((event) =>
      event.type === 'keySignature' ? [{ tick: event.tick, fifths: event.fifths, mode: event.mode }] : [],
    ),
    tracks: parts.map((part) => {
      let [lowestKey, highestKey, firstTick, lastTick] = [127, 0, Number.POSITIVE_INFINITY, 0]
      for (const note of part.notes) {
        lowestKey = Math.min(lowestKey, note.key)
        highestKey = Math.max(highestKey, note.key)
        firstTick = Math.min(firstTick, note.onTick)
        lastTick = Math.max(lastTick, note.offTick)
      }
      const { name, channel, program, notes } = part
      return { name, channel, program, notes: notes.length, lowestKey, highestKey, firstTick, lastTick }
    }),
    notes: parts.reduce((sum, part) => sum + part.notes.length, 0),
    hangingNotes: parts.reduce((sum, part) => sum + part.hangingNotes, 0),
    warnings: [...file.warnings, ...partWarnings(parts)],
  }
}

/** Sentences about notes that were odd: without an end, struck twice, ended without a beginning. */
export function partWarnings(parts: ReturnType<typeof fileParts>): string[] {
  const warnings: string[] = []
  for (const part of parts) {
    if (part.hangingNotes > 0)
      warnings.push(
        `${part.name}: ${count(part.hangingNotes, 'note has', 'notes have')} no end; ended by the next stroke of the key, or with the track.`,
      )
    if (part.overlappingNotes > 0)
      warnings.push(
        `${part.name}: ${count(part.overlappingNotes, 'note was', 'notes were')} struck while the same key was still down.`,
      )
    if (part.strayNoteOffs > 0)
      warnings.push(
        `${part.name}: ${count(part.strayNoteOffs, 'note-off', 'note-offs')} with no note to end.`,
      )
  }
  return warnings
}

function count(number: number, one: string, many: string): string {
  return `${number} ${number === 1 ? one : many}`
}
