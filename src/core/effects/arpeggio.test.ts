import fc from 'fast-check'
import type { Note } from '../event/note'
import type { EffectSlot } from '../project/schema'
import {
  type ArpeggioSettings,
  arpeggio,
  arpeggioDirections,
  arpeggioRates,
  arpeggioSettingsSchema,
  defaultArpeggio,
} from './arpeggio'
import type { EffectEvent } from './noteEffect'
import { byTickOffsFirst, noteEvents, printChain } from './print'

const settingsArbitrary: fc.Arbitrary<ArpeggioSettings> = fc.record({
  rate: fc.constantFrom(...(Object.keys(arpeggioRates) as (keyof typeof arpeggioRates)[])),
  direction: fc.constantFrom(...arpeggioDirections),
  octaves: fc.integer({ min: 1, max: 4 }),
  gate: fc.double({ min: 0.05, max: 1, noNaN: true }),
  seed: fc.nat(1_000_000),
})

const notesArbitrary = fc
  .array(
    fc.record({
      onsetTicks: fc.integer({ min: 0, max: 60_000 }),
      durationTicks: fc.integer({ min: 1, max: 30_000 }),
      key: fc.integer({ min: 0, max: 127 }),
      velocity: fc.integer({ min: 1, max: 127 }),
    }),
    { maxLength: 25 },
  )
  .map((list) =>
    list.map(
      (each, index): Note => ({
        ...each,
        id: index + 1,
        releaseVelocity: 64,
        channel: 1,
        origin: { kind: 'drawn' },
      }),
    ),
  )

function runInWindows(
  events: readonly EffectEvent[],
  cuts: readonly number[],
  settings: ArpeggioSettings,
): EffectEvent[] {
  const edges = [...new Set([0, ...cuts, 200_000])].sort((a, b) => a - b)
  let state = arpeggio.initialState()
  const out: EffectEvent[] = []
  for (let i = 0; i + 1 < edges.length; i++) {
    const [fromTicks, toTicks] = [edges[i]!, edges[i + 1]!]
    const inside = events.filter((event) => event.tick >= fromTicks && event.tick < toTicks)
    const result = arpeggio.process({ fromTicks, toTicks, events: inside }, state, settings)
    out.push(...result.out)
    state = result.state
  }
  return out
}

function chord(keys: readonly number[], onsetTicks: number, durationTicks: number): Note[] {
  return keys.map((key, index) => ({
    id: onsetTicks + index + 1,
    onsetTicks,
    durationTicks,
    key,
    velocity: 80,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'drawn' },
  }))
}

const slot = (settings: Partial<ArpeggioSettings>): EffectSlot => ({
  id: 'a',
  kind: 'arpeggio',
  isOn: true,
  settings: { ...defaultArpeggio, ...settings },
})

describe('arpeggio', () => {
  test('cutting the input into any windows gives the same output', () => {
    fc.assert(
      fc.property(
        notesArbitrary,
        settingsArbitrary,
        fc.array(fc.integer({ min: 1, max: 100_000 }), { maxLength: 40 }),
        (notes, settings, cuts) => {
          const events = noteEvents(notes)
          expect(runInWindows(events, cuts, settings)).toEqual(runInWindows(events, [], settings))
        },
      ),
      { numRuns: 300 },
    )
  })

  test('every note that begins ends, and one key never sounds twice at once', () => {
    fc.assert(
      fc.property(notesArbitrary, settingsArbitrary, (notes, settings) => {
        const sounding = new Set<number>()
        for (const event of [...runInWindows(noteEvents(notes), [], settings)].sort(byTickOffsFirst)) {
          if (event.type === 'on') {
            expect(sounding.has(event.key)).toBe(false)
            sounding.add(event.key)
          } else expect(sounding.delete(event.key)).toBe(true)
        }
        expect(sounding.size).toBe(0)
      }),
      { numRuns: 300 },
    )
  })

  test('a change later in the piece changes nothing earlier', () => {
    fc.assert(
      fc.property(notesArbitrary, notesArbitrary, settingsArbitrary, (before, after, settings) => {
        const later = after.map((note) => ({
          ...note,
          id: note.id + 1000,
          onsetTicks: note.onsetTicks + 100_000,
        }))
        const until = (events: readonly EffectEvent[]) => events.filter((event) => event.tick < 100_000)
        const whole = runInWindows(noteEvents([...before, ...later]), [], settings)
        expect(until(whole)).toEqual(until(runInWindows(noteEvents(before), [], settings)))
      }),
    )
  })

  test('plays a held chord upwards on the grid', () => {
    const { notes } = printChain(chord([60, 64, 67], 0, 40_320), [slot({ rate: '1/8' })], 100)
    expect(notes.slice(0, 4).map((note) => note.key)).toEqual([60, 64, 67, 60])
    // The first step waits for the chord to come together; all others are on eighths.
    expect(notes.slice(1, 4).map((note) => note.onsetTicks)).toEqual([5040, 10_080, 15_120])
  })

  test('the order in which a chord’s keys come down does not matter', () => {
    const spread = chord([67, 60, 64], 0, 40_320).map((note, index) => ({ ...note, onsetTicks: index * 150 }))
    expect(
      printChain(spread, [slot({})], 100)
        .notes.slice(0, 3)
        .map((note) => note.key),
    ).toEqual([60, 64, 67])
  })

  test('directions and octaves', () => {
    const keys = (settings: Partial<ArpeggioSettings>, count: number) =>
      printChain(chord([60, 64, 67], 0, 80_640), [slot(settings)], 1)
        .notes.slice(0, count)
        .map((note) => note.key)
    expect(keys({ direction: 'down' }, 4)).toEqual([67, 64, 60, 67])
    expect(keys({ direction: 'up and down' }, 6)).toEqual([60, 64, 67, 64, 60, 64])
    expect(keys({ octaves: 2 }, 7)).toEqual([60, 64, 67, 72, 76, 79, 60])
    expect(keys({ direction: 'by chance', seed: 5 }, 12)).toEqual(
      keys({ direction: 'by chance', seed: 5 }, 12),
    )
    expect(keys({ direction: 'by chance', seed: 5 }, 12)).not.toEqual(
      keys({ direction: 'by chance', seed: 6 }, 12),
    )
  })

  test('a chord let go at once still sounds once', () => {
    expect(printChain(chord([60], 1000, 50), [slot({})], 1).notes).toHaveLength(1)
  })

  test('printed notes know the note they came from', () => {
    const source = chord([60, 64], 0, 20_160)
    for (const note of printChain(source, [slot({})], 1).notes) {
      if (note.origin.kind !== 'printed') throw new Error('A printed note has a source')
      const { fromNoteId } = note.origin
      expect(source.find((candidate) => candidate.id === fromNoteId)!.key).toBe(note.key)
    }
  })

  test('flush ends what sounds', () => {
    const { state } = arpeggio.process(
      { fromTicks: 0, toTicks: 1000, events: noteEvents(chord([60], 0, 40_000)).slice(0, 1) },
      arpeggio.initialState(),
      defaultArpeggio,
    )
    expect(arpeggio.flush(1000, state).out).toMatchObject([{ type: 'off', key: 60, tick: 1000 }])
  })

  test('settings out of range are refused', () => {
    expect(arpeggioSettingsSchema.safeParse({ ...defaultArpeggio, octaves: 0 }).success).toBe(false)
    expect(arpeggioSettingsSchema.safeParse({ ...defaultArpeggio, gate: 2 }).success).toBe(false)
  })
})
