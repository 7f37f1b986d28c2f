import fc from 'fast-check'
import { fileParts } from '../midi/standardMidiFile/parts'
import { readMidiFile } from '../midi/standardMidiFile/read'
import { writeMidiFile } from '../midi/standardMidiFile/write'
import { heardMidi } from './heardMidi'

const anyHeard = fc
  .array(
    fc.record({
      onsetMs: fc.double({ min: 0, max: 20_000, noNaN: true }),
      durationMs: fc.double({ min: 1, max: 3000, noNaN: true }),
      key: fc.integer({ min: 40, max: 52 }),
      velocity: fc.integer({ min: 1, max: 127 }),
      confidence: fc.double({ min: 0, max: 1, noNaN: true }),
    }),
    { maxLength: 60 },
  )
  .map((notes) => notes.sort((a, b) => a.onsetMs - b.onsetMs || a.key - b.key))
  // One key cannot begin twice at the same moment.
  .map((notes) =>
    notes.filter(
      (note, index) =>
        !notes.slice(0, index).some((each) => each.key === note.key && note.onsetMs - each.onsetMs < 10),
    ),
  )

test('whatever was heard is read again from the file, each at its moment, at any tempo', () => {
  fc.assert(
    fc.property(anyHeard, fc.integer({ min: 30, max: 300 }), (notes, tempoBpm) => {
      const file = readMidiFile(writeMidiFile(heardMidi('heard', notes, 0, tempoBpm)))
      const read = fileParts(file).flatMap((part) => part.notes)
      expect(read).toHaveLength(notes.length)
      const msToTick = Math.round(6e7 / tempoBpm) / 1000 / file.divisionTicksPerQuarter
      const ordered = [...read].sort((a, b) => a.onTick - b.onTick || a.key - b.key)
      const expected = notes
        .map((note) => ({ ...note, tick: Math.round(note.onsetMs / msToTick) }))
        .sort((a, b) => a.tick - b.tick || a.key - b.key)
      for (const [index, { onTick, offTick, key, velocity }] of ordered.entries()) {
        const note = expected[index]!
        expect([key, velocity]).toEqual([note.key, note.velocity])
        expect(Math.abs(onTick * msToTick - note.onsetMs)).toBeLessThanOrEqual(msToTick)
        expect(offTick).toBeGreaterThan(onTick)
      }
    }),
    { numRuns: 100 },
  )
})
