import { parseMidi } from 'midi-file'
import type { Track } from '../project/schema'
import { TICKS_PER_QUARTER } from '../time/units'
import { compareNotes, type Proof } from './compare'
import { byPlace, expectedTrackNotes, type ProofNote } from './expected'

/** Notes of each track of a Standard MIDI File, read with the package midi-file, which shares no code with our writer. */
export function readWithMidiFile(
  bytes: Uint8Array,
): { name: string; notes: (ProofNote & { readonly channel: number })[] }[] {
  const file = parseMidi(bytes)
  const division = file.header.ticksPerBeat ?? 480
  const scale = TICKS_PER_QUARTER / division
  return file.tracks.map((events) => {
    const open = new Map<string, number[]>()
    const notes: (ProofNote & { readonly channel: number })[] = []
    let name = ''
    let tick = 0
    for (const event of events) {
      tick += event.deltaTime
      if (event.type === 'trackName') name = event.text
      if (event.type !== 'noteOn' && event.type !== 'noteOff') continue
      const address = `${event.channel}:${event.noteNumber}`
      const waiting = open.get(address) ?? []
      open.set(address, waiting)
      if (event.type === 'noteOn' && event.velocity > 0) waiting.push(tick)
      else {
        const on = waiting.shift()
        if (on !== undefined)
          notes.push({
            onsetTicks: on * scale,
            durationTicks: (tick - on) * scale,
            key: event.noteNumber,
            channel: event.channel + 1,
          })
      }
    }
    return { name, notes }
  })
}

/**
 * Reads a written file back and compares it with the tracks it was written from. The first track of the file is the
 * conductor's; where all is in one, channels are compared instead of tracks.
 */
export function proveMidi(bytes: Uint8Array, tracks: readonly Track[]): Proof {
  const read = readWithMidiFile(bytes)
  const header = new DataView(bytes.buffer, bytes.byteOffset)
  const division = header.getUint16(12)
  if (header.getUint16(8) === 0) return proveOneTrack(read[0]?.notes ?? [], tracks, division)
  const found = read.slice(1)
  const expected = expectedTrackNotes(tracks)
  const parts = expected.map((part, index) => ({
    name: part.name,
    expected: endedInOrder(part.notes),
    found: found[index]?.notes ?? [],
  }))
  // A note is never shorter than one tick of the file, and both ends are rounded.
  return compareNotes(parts, TICKS_PER_QUARTER / division)
}

function proveOneTrack(
  found: ReturnType<typeof readWithMidiFile>[number]['notes'],
  tracks: readonly Track[],
  division: number,
): Proof {
  const channels = [...new Set(tracks.map(({ channel }) => channel))].sort((a, b) => a - b)
  return compareNotes(
    channels.map((channel) => ({
      name: `Channel ${channel}`,
      expected: endedInOrder(
        tracks
          .flatMap((track) =>
            track.channel === channel ? expectedTrackNotes([track]).flatMap(({ notes }) => notes) : [],
          )
          .sort(byPlace),
      ),
      found: found.filter((note) => note.channel === channel),
    })),
    TICKS_PER_QUARTER / division,
  )
}

/**
 * In a MIDI stream a note-off ends the note of its key that began first; where notes of one key overlap, that is how
 * any reader pairs them. Ends are handed out in that order, onsets and ends themselves are untouched.
 */
function endedInOrder(notes: readonly ProofNote[]): ProofNote[] {
  const byKey = new Map<number, ProofNote[]>()
  for (const note of notes) {
    const same = byKey.get(note.key)
    if (same) same.push(note)
    else byKey.set(note.key, [note])
  }
  return [...byKey.values()].flatMap((same) => {
    const ends = same.map((note) => note.onsetTicks + note.durationTicks).sort((a, b) => a - b)
    return same.map((note, index) => ({ ...note, durationTicks: ends[index]! - note.onsetTicks }))
  })
}
