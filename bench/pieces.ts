import { inventedForTwoHands } from '../src/core/beats/freeMusic.testing'
import { playFreely } from '../src/core/beats/freePlayer.testing'
import type { TimedNote } from '../src/core/beats/strokes'
import type { MidiFileEvent } from '../src/core/midi/standardMidiFile/model'
import { writeMidiFile } from '../src/core/midi/standardMidiFile/write'
import {
  composeKnownScore,
  perform,
  rhythmVocabularies,
} from '../src/core/notation/rhythm/performedScores.testing'
import type { NoteToPart } from '../src/core/separation/takeApart'
import { knownMusic, mergedNotes } from '../src/core/separation/voices/knownMusic.testing'

const styles = Object.keys(rhythmVocabularies)

/** A performed piece as a MIDI file: parts of invented rhythm with human timing, one channel each. */
export function performedPiece(
  parts: number,
  bars: number,
  withChords = false,
): { bytes: Uint8Array; notes: number } {
  let notes = 0
  const tracks = Array.from({ length: parts }, (_, index) => {
    const channel = (index % 15) + 1 + (index % 15 >= 9 ? 1 : 0)
    const known = composeKnownScore(styles[index % styles.length]!, bars, index + 1, withChords)
    const played = perform(known, { deviationMs: 12, tempoBpm: 100, gate: 0.93, seed: index + 77 })
    notes += played.length
    const events: MidiFileEvent[] = [
      { tick: 0, type: 'trackName', text: `Part ${index + 1}` },
      { tick: 0, type: 'program', channel, program: [0, 40, 41, 42, 68, 71, 73, 60][index % 8]! },
    ]
    for (const note of played) {
      const key = note.key - (index % 3) * 7
      events.push({
        tick: Math.round(note.onsetTicks / 10.5),
        type: 'noteOn',
        channel,
        key,
        velocity: note.velocity,
      })
      events.push({
        tick: Math.round((note.onsetTicks + note.durationTicks) / 10.5),
        type: 'noteOff',
        channel,
        key,
        velocity: 64,
      })
    }
    return { events, endTick: 0 }
  })
  const conductor = {
    events: [{ tick: 0, type: 'tempo' as const, microsecondsPerQuarter: 600_000 }],
    endTick: 0,
  }
  return {
    bytes: writeMidiFile({ format: 1, divisionTicksPerQuarter: 960, tracks: [conductor, ...tracks] }),
    notes,
  }
}

/** Exactly `notes` notes on 16 channels, sixteenths without end. */
export function denseFile(notes: number): Uint8Array {
  const events: MidiFileEvent[] = []
  for (let i = 0; i < notes; i++) {
    const channel = (i % 16) + 1
    const tick = Math.floor(i / 16) * 120 + ((i * 7) % 13)
    const key = 40 + ((i * 11) % 48)
    events.push({ tick, type: 'noteOn', channel, key, velocity: 40 + (i % 80) })
    events.push({ tick: tick + 110, type: 'noteOff', channel, key, velocity: 64 })
  }
  return writeMidiFile({ format: 0, divisionTicksPerQuarter: 480, tracks: [{ events, endTick: 0 }] })
}

/** Chorales one after the other, again and again, all on one channel. */
export function repeatedLines(count: number): NoteToPart[] {
  const chorales = knownMusic.filter(({ kind }) => kind === 'lines').map(mergedNotes)
  const notes: NoteToPart[] = []
  let startQuarters = 0
  for (let turn = 0; notes.length < count; turn++) {
    const chorale = chorales[turn % chorales.length]!
    for (const { onsetQuarters, endQuarters, key } of chorale)
      notes.push({
        onsetQuarters: startQuarters + onsetQuarters,
        endQuarters: startQuarters + endQuarters,
        key,
        velocity: 80,
      })
    startQuarters += Math.max(...chorale.map(({ endQuarters }) => endQuarters))
  }
  return notes.slice(0, count)
}

/** Two hands that play for ten minutes without a click. */
export function tenMinutesPlayedFreely(): readonly TimedNote[] {
  const { notes } = playFreely(inventedForTwoHands(4, 21, 400), 8)
  return notes.filter(({ onsetMs }) => onsetMs < 600_000)
}
