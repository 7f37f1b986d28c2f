import { barsProblem, type FoundBars, findBars } from '../beats/findBars'
import type { TimedNote } from '../beats/strokes'
import { timeOfBars } from '../beats/timeOfBars'
import type { MidiFile, MidiFileEvent } from '../midi/standardMidiFile/model'
import { fileParts, isRhythmPart } from '../midi/standardMidiFile/parts'
import { tempoMapOf } from '../midi/standardMidiFile/tempoMap'
import { TempoMap } from '../time/tempoMap'
import { rescaleTicks, TICKS_PER_QUARTER } from '../time/units'
import { ImportError } from './midiToProject'

/** Divisions below this would move notes by more than a millisecond. */
const leastDivision = 960

/** A file whose bars were found, and what they are. */
export interface BarredFile {
  readonly file: Omit<MidiFile, 'warnings'>
  readonly found: FoundBars
  /** Bars that notes begin in, a short first one too. */
  readonly bars: number
}

/**
 * Finds the bars of a file whose own bars are not those of the music: tempo and meter are written anew, everything else stays at
 * its moment.
 *
 * @throws ImportError where there is too little to find bars in
 */
export function barsOfMidi(file: MidiFile): BarredFile {
  const from = tempoMapOf(file)
  const division = file.divisionTicksPerQuarter
  const msAt = (tick: number) => from.msAt(rescaleExactly(tick, division, TICKS_PER_QUARTER))
  const notes = fileParts(file)
    .flatMap((part): TimedNote[] => {
      const isUnpitched = isRhythmPart(part)
      return part.notes.map(({ onTick, offTick, key, velocity }) => ({
        onsetMs: msAt(onTick),
        endMs: msAt(offTick),
        key,
        velocity,
        isUnpitched,
      }))
    })
    .sort((a, b) => a.onsetMs - b.onsetMs || a.key - b.key)
  const found = findBars(notes)
  if (!found) throw new ImportError(barsProblem(notes) ?? 'There are no bars to be found')
  const time = timeOfBars(found)
  // Tempi as the file keeps them, in whole microseconds, so that nothing drifts over the piece.
  const tempos = time.tempos.map(({ tick, tempoBpm }) => ({
    tick,
    microsecondsPerQuarter: Math.round(6e7 / tempoBpm),
  }))
  const to = new TempoMap(
    tempos.map(({ tick, microsecondsPerQuarter }) => ({ tick, tempoBpm: 6e7 / microsecondsPerQuarter })),
  )
  const newDivision = Math.max(leastDivision, division)
  const move = (tick: number) =>
    Math.max(0, Math.round(rescaleExactly(to.ticksAt(msAt(tick)), TICKS_PER_QUARTER, newDivision)))
  const isReplaced = (event: MidiFileEvent) => event.type === 'tempo' || event.type === 'meter'
  const scale = (tick: number) => rescaleTicks(tick, TICKS_PER_QUARTER, newDivision)
  const timeEvents: MidiFileEvent[] = [
    ...time.meters.map(
      ({ tick, numerator, denominator }): MidiFileEvent => ({
        tick: scale(tick),
        type: 'meter',
        numerator,
        denominator,
        clocksPerClick:
          found.division === 3 && denominator === 8 ? 36 : Math.max(1, Math.round(96 / denominator)),
        thirtySecondsPerQuarter: 8,
      }),
    ),
    ...tempos.map(
      ({ tick, microsecondsPerQuarter }): MidiFileEvent => ({
        tick: scale(tick),
        type: 'tempo',
        microsecondsPerQuarter,
      }),
    ),
  ]
  const tracks = file.tracks.map(({ events, endTick }, index) => {
    const moved = events
      .filter((event) => !isReplaced(event))
      .map((event) => ({ ...event, tick: move(event.tick) }))
    const own = index === 0 ? [...timeEvents, ...moved].sort((a, b) => a.tick - b.tick) : moved
    return { events: own, endTick: own.reduce((end, event) => Math.max(end, event.tick), move(endTick)) }
  })
  return {
    file: { format: file.format, divisionTicksPerQuarter: newDivision, tracks },
    found,
    bars:
      Math.ceil((found.beatsMs.length - found.pickupBeats) / found.beatsPerBar) +
      (found.pickupBeats > 0 ? 1 : 0),
  }
}

/** What the command "bars" says: beats to the minute in the middle of the piece, and how bars are counted. */
export function reportOfBars({ found, bars }: BarredFile) {
  const lengths = found.beatsMs.slice(1).map((beatMs, index) => beatMs - found.beatsMs[index]!)
  const middle = lengths.sort((a, b) => a - b)[lengths.length >> 1]!
  return {
    beatsPerMinute: Math.round(600_000 / middle) / 10,
    meter: found.division === 3 ? `${found.beatsPerBar * 3}/8` : `${found.beatsPerBar}/4`,
    bars,
    pickupBeats: found.pickupBeats,
    confidence: Math.round(found.confidence * 100) / 100,
  }
}

function rescaleExactly(ticks: number, fromDivision: number, toDivision: number): number {
  return (ticks * toDivision) / fromDivision
}
