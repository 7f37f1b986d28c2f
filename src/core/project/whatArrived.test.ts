import fc from 'fast-check'
import type { ReportedNote } from '../programs/receiver/report'
import type { SentNote } from './transferring'
import { whatArrived } from './whatArrived'

const quarter = 10_080
const sent = {
  names: ['Piano, upper staff', 'Piano, lower staff'],
  notes: [0, 1, 2, 3].flatMap((beat): SentNote[] => [
    { line: 0, channel: 1, key: 72 + beat, onsetTicks: beat * quarter, valueTicks: quarter },
    { line: 1, channel: 2, key: 48 + beat, onsetTicks: beat * quarter, valueTicks: quarter },
  ]),
}
const writtenAs = (change: (note: ReportedNote, index: number) => ReportedNote | null) => ({
  written: sent.notes.flatMap(({ line, channel, key, onsetTicks, valueTicks }, index) => {
    const note = change({ channel, key, onsetTicks, durationTicks: valueTicks, staff: line }, index)
    return note ? [note] : []
  }),
})

test('what was written as it was sent differs in nothing, wherever the first bar is', () => {
  const there = writtenAs((note) => ({
    ...note,
    onsetTicks: note.onsetTicks + 4 * quarter,
    staff: note.staff + 3,
  }))
  const { lines, differences, more, shiftTicks } = whatArrived(sent, there)
  expect(
    lines.map(({ sent: count, written, placed, valued, onStaff }) => [
      count,
      written,
      placed,
      valued,
      onStaff,
    ]),
  ).toEqual([
    [4, 4, 4, 4, 4],
    [4, 4, 4, 4, 4],
  ])
  expect([differences, more, shiftTicks]).toEqual([[], 0, 4 * quarter])
})

test('each kind of difference is told with its note', () => {
  const there = writtenAs((note, index) =>
    index === 0
      ? null
      : index === 2
        ? { ...note, durationTicks: quarter / 2 }
        : index === 3
          ? { ...note, staff: 0 }
          : index === 5
            ? { ...note, onsetTicks: note.onsetTicks + quarter / 4 }
            : note,
  )
  there.written.push({ channel: 9, key: 40, onsetTicks: 0, durationTicks: quarter, staff: 0 })
  const { differences, more } = whatArrived(sent, there)
  expect(differences.map(({ what, note }) => [what, note.key])).toEqual([
    ['not written', 72],
    ['on another staff', 49],
    ['another value', 73],
    ['elsewhere in time', 50],
  ])
  expect(more).toBe(1)
})

test('of a line that is not there at all, the table says so, and no note is named', () => {
  const { lines, differences } = whatArrived(
    sent,
    writtenAs((note) => (note.channel === 2 ? null : note)),
  )
  expect(lines.map(({ written }) => written)).toEqual([4, 0])
  expect(differences).toEqual([])
})

test('of two lines that were written on one staff, one is not on its own', () => {
  const { lines } = whatArrived(
    sent,
    writtenAs((note) => ({ ...note, staff: 0 })),
  )
  expect(lines.map(({ onStaff }) => onStaff)).toEqual([4, 0])
})

test('every note is counted once, whatever was written', () => {
  const note = fc.record({
    channel: fc.integer({ min: 1, max: 2 }),
    key: fc.integer({ min: 48, max: 75 }),
    onsetTicks: fc.integer({ min: 0, max: 4 * quarter }),
    durationTicks: fc.integer({ min: 1, max: quarter }),
    staff: fc.integer({ min: 0, max: 2 }),
  })
  fc.assert(
    fc.property(fc.array(note, { maxLength: 30 }), (written) => {
      const { lines, more } = whatArrived(sent, { written })
      const found = lines.reduce((sum, line) => sum + line.written, 0)
      expect(found + more).toBe(written.length)
      for (const line of lines) expect(line.placed).toBeLessThanOrEqual(line.written)
    }),
  )
})
