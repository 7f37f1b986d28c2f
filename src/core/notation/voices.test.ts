import fc from 'fast-check'
import type { Note } from '../event/note'
import type { WrittenNote } from './rhythm/rhythm'
import { mostVoices, sortIntoVoices, staffVoices } from './voices'

const written = (id: number, onset: number, end: number, key: number): WrittenNote => ({
  note: {
    id,
    key,
    onsetTicks: onset,
    durationTicks: end - onset,
    velocity: 80,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'drawn' },
  } satisfies Note,
  onsetTicks: onset,
  endTicks: end,
  isShort: false,
})

const any = fc
  .array(
    fc.record({
      onset: fc.nat(12),
      length: fc.integer({ min: 1, max: 8 }),
      key: fc.integer({ min: 40, max: 80 }),
    }),
    { maxLength: 40 },
  )
  .map((list) =>
    list
      .map(({ onset, length, key }, index) => written(index + 1, onset * 2520, (onset + length) * 2520, key))
      .sort((a, b) => a.onsetTicks - b.onsetTicks || a.note.key - b.note.key),
  )

describe('sorting a staff into voices', () => {
  test('for any notes, every note is in exactly one voice, and in no voice does anything overlap', () => {
    fc.assert(
      fc.property(any, fc.boolean(), (notes, severalVoices) => {
        const voices = sortIntoVoices(notes, severalVoices)
        expect(voices.length).toBeLessThanOrEqual(severalVoices ? mostVoices : 1)
        const ids = voices.flatMap((voice) =>
          voice.flatMap((chord) => chord.notes.map((each) => each.note.id)),
        )
        expect(ids.sort((a, b) => a - b)).toEqual(notes.map((each) => each.note.id).sort((a, b) => a - b))
        for (const voice of voices)
          for (const [index, chord] of voice.entries()) {
            expect(chord.endTicks).toBeGreaterThan(chord.onsetTicks)
            if (index > 0) expect(chord.onsetTicks).toBeGreaterThanOrEqual(voice[index - 1]!.endTicks)
          }
      }),
    )
  })

  test('a melody over a held note is two voices', () => {
    const voices = sortIntoVoices(
      [
        written(1, 0, 40_320, 48),
        written(2, 0, 10_080, 72),
        written(3, 10_080, 20_160, 74),
        written(4, 20_160, 40_320, 71),
      ],
      true,
    )
    expect(voices.map((voice) => voice.flatMap((chord) => chord.notes.map((each) => each.note.key)))).toEqual(
      expect.arrayContaining([[48], [72, 74, 71]]),
    )
    expect(voices).toHaveLength(2)
  })

  test('notes that begin and end together are one chord', () => {
    expect(
      sortIntoVoices([written(1, 0, 10_080, 60), written(2, 0, 10_080, 64), written(3, 0, 10_080, 67)], true),
    ).toHaveLength(1)
  })
})

test('notes that were told their voice are in it, whatever the rest of the staff does; without several voices they are not', () => {
  const told = (each: WrittenNote, voice: number): WrittenNote => ({ ...each, note: { ...each.note, voice } })
  const crossing = [
    told(written(1, 0, 4, 60), 1),
    told(written(2, 0, 4, 67), 2),
    told(written(3, 4, 8, 72), 1),
    told(written(4, 4, 6, 65), 2),
    written(5, 6, 8, 50),
  ]
  const lines = staffVoices(crossing, true)
  expect(
    lines.map(({ number, chords }) => [
      number,
      chords.flatMap(({ notes }) => notes.map(({ note }) => note.id)),
    ]),
  ).toEqual([
    [1, [1, 3]],
    [2, [2, 4]],
    [null, [5]],
  ])
  expect(staffVoices(crossing, false).map(({ number }) => number)).toEqual([null])
})
