import fc from 'fast-check'
import { Chord, Note } from 'tonal'
import { MeterMap } from '../time/meterMap'
import { TempoMap } from '../time/tempoMap'
import { readChart, readChord } from './chordChart'
import { euclid } from './euclid'
import {
  type Generator,
  type GeneratorWork,
  generatorSchema,
  notesBetween,
  problemsOf,
  streamsOf,
} from './generator'
import type { Lane } from './lane'
import { progressions } from './progressions'
import { voice } from './voicing'

const context = {
  tempoMap: new TempoMap([{ tick: 0, tempoBpm: 120 }]),
  meterMap: new MeterMap([{ tick: 0, numerator: 4, denominator: 4 }]),
}

const generatorOf = (work: GeneratorWork, seed = 1): Generator => ({
  id: 'g',
  name: 'Tide',
  isPlaying: true,
  seed,
  isSeedKept: true,
  earlierSeeds: [],
  work,
})

const lane = (fields: Partial<Lane>): Lane => ({
  id: 'l',
  name: 'Lane',
  isOn: true,
  channel: 1,
  cable: null,
  rate: '1/16',
  direction: 'forwards',
  swing: 50,
  gate: 80,
  transpose: 0,
  force: 100,
  chance: 100,
  movements: [],
  pattern: { kind: 'euclid', pulses: 3, steps: 8, rotation: 0, key: 60, velocity: 90, accent: 0 },
  ...fields,
})

const chartWork = (feel: 'straight' | 'swing' | 'waltz' | 'slow' | 'rolling'): GeneratorWork => ({
  kind: 'accompaniment',
  chart: '|: Am7 | D7 G7 | Cmaj7 | % :|',
  feel,
  countInBars: 1,
  choruses: 2,
  startBar: 1,
  bassChannel: 2,
  drumsChannel: 10,
  compingChannel: 3,
})

test('Euclidean rhythms are those of the published table', () => {
  // G. Toussaint, The Euclidean Algorithm Generates Traditional Musical Rhythms, 2005.
  const table: readonly (readonly [number, number, string])[] = [
    [1, 2, 'x.'],
    [1, 3, 'x..'],
    [1, 4, 'x...'],
    [4, 12, 'x..x..x..x..'],
    [2, 3, 'x.x'],
    [2, 5, 'x.x..'],
    [3, 4, 'x.xx'],
    [3, 5, 'x.x.x'],
    [3, 7, 'x.x.x..'],
    [3, 8, 'x..x..x.'],
    [4, 7, 'x.x.x.x'],
    [4, 9, 'x.x.x.x..'],
    [4, 11, 'x..x..x..x.'],
    [5, 6, 'x.xxxx'],
    [5, 7, 'x.xx.xx'],
    [5, 8, 'x.xx.xx.'],
    [5, 9, 'x.x.x.x.x'],
    [5, 11, 'x.x.x.x.x..'],
    [5, 12, 'x..x.x..x.x.'],
    [5, 16, 'x..x..x..x..x...'],
    [7, 8, 'x.xxxxxx'],
    [7, 12, 'x.xx.x.xx.x.'],
    [7, 16, 'x..x.x.x..x.x.x.'],
    [9, 16, 'x.xx.x.x.xx.x.x.'],
    [11, 24, 'x..x.x.x.x.x..x.x.x.x.x.'],
    [13, 24, 'x.xx.x.x.x.x.xx.x.x.x.x.'],
  ]
  for (const [pulses, steps, pattern] of table)
    expect([
      pulses,
      steps,
      euclid(pulses, steps)
        .map((isPulse) => (isPulse ? 'x' : '.'))
        .join(''),
    ]).toEqual([pulses, steps, pattern])
  expect(euclid(3, 8, 3).map(Number).join('')).toBe('10010100')
  expect(euclid(9, 4)).toEqual([true, true, true, true])
})

describe('lanes', () => {
  const laneArbitrary: fc.Arbitrary<Lane> = fc
    .record({
      rate: fc.constantFrom('1/8', '1/16', '1/8 triplet', '1/4 dotted'),
      direction: fc.constantFrom('forwards', 'backwards', 'there and back', 'by chance'),
      swing: fc.integer({ min: 50, max: 75 }),
      gate: fc.integer({ min: 5, max: 100 }),
      chance: fc.integer({ min: 0, max: 100 }),
      movements: fc.uniqueArray(
        fc.record({
          setting: fc.constantFrom(
            'transpose',
            'gate',
            'force',
            'chance',
            'swing',
            'pulses',
            'steps',
            'rotation',
          ),
          shape: fc.constantFrom('sine', 'steps', 'random and hold', 'falling'),
          periodQuarters: fc.constantFrom(1, 3, 8),
          from: fc.integer({ min: -100, max: 300 }),
          to: fc.integer({ min: -100, max: 300 }),
          points: fc.constant<number[]>([0, 100, 40]),
        }),
        { maxLength: 3, selector: ({ setting }) => setting },
      ),
      pattern: fc.oneof(
        fc.record({
          kind: fc.constant('steps' as const),
          steps: fc.array(
            fc.record({
              key: fc.option(fc.integer({ min: 30, max: 90 })),
              velocity: fc.integer({ min: 1, max: 127 }),
              isTied: fc.boolean(),
              chance: fc.integer({ min: 0, max: 100 }),
            }),
            { minLength: 1, maxLength: 16 },
          ),
        }),
        fc.record({
          kind: fc.constant('euclid' as const),
          pulses: fc.integer({ min: 0, max: 16 }),
          steps: fc.integer({ min: 1, max: 16 }),
          rotation: fc.integer({ min: -8, max: 8 }),
          key: fc.constant(60),
          velocity: fc.constant(90),
          accent: fc.constant(20),
        }),
      ),
    })
    .map((fields) => lane(fields as Partial<Lane>))

  test('any stretches give the same notes as the whole, and the same seed the same', () => {
    fc.assert(
      fc.property(
        fc.array(laneArbitrary, { minLength: 1, maxLength: 3 }),
        fc.nat(100_000),
        fc.array(fc.integer({ min: 1, max: 400_000 }), { maxLength: 20 }),
        (lanes, seed, cuts) => {
          const generator = generatorOf({ kind: 'lanes', lanes }, seed)
          const edges = [...new Set([0, ...cuts, 400_000])].sort((a, b) => a - b)
          const pieces = edges
            .slice(1)
            .flatMap((to, index) => notesBetween(generator, context, edges[index]!, to))
          expect(pieces).toEqual(notesBetween({ ...generator }, context, 0, 400_000))
        },
      ),
    )
  })

  test('ties go on, rests are silent, a movement transposes with the bars', () => {
    const step = (key: number | null, isTied = false) => ({ key, velocity: 80, isTied, chance: 100 })
    const notes = notesBetween(
      generatorOf({
        kind: 'lanes',
        lanes: [
          lane({
            gate: 100,
            rate: '1/4',
            pattern: { kind: 'steps', steps: [step(60), step(null, true), step(null), step(64)] },
          }),
        ],
      }),
      context,
      0,
      80_640,
    )
    expect(notes.map(({ onsetTicks, durationTicks, key }) => [onsetTicks, durationTicks, key])).toEqual([
      [0, 20_160, 60],
      [30_240, 10_080, 64],
      [40_320, 20_160, 60],
      [70_560, 10_080, 64],
    ])
    const moving = lane({
      rate: '1/4',
      pattern: { kind: 'steps', steps: [step(60)] },
      movements: [
        { setting: 'transpose', shape: 'steps', periodQuarters: 4, from: 0, to: 12, points: [0, 100] },
      ],
    })
    expect(
      notesBetween(generatorOf({ kind: 'lanes', lanes: [moving] }), context, 0, 40_320).map(
        (note) => note.key,
      ),
    ).toEqual([60, 60, 72, 72])
  })

  test('pulses, their turn and the swing move with the bars as well', () => {
    const onsetsOf = (fields: Partial<Lane>) =>
      notesBetween(generatorOf({ kind: 'lanes', lanes: [lane(fields)] }), context, 0, 40_320).map((note) =>
        Math.round(note.onsetTicks / 2520),
      )
    const bySteps = { shape: 'steps' as const, periodQuarters: 4, points: [0, 100] }
    // Three pulses in eight in the first half of the bar, four in the second.
    expect(onsetsOf({ movements: [{ setting: 'pulses', ...bySteps, from: 3, to: 4 }] })).toEqual([
      0, 3, 6, 8, 10, 12, 14,
    ])
    expect(onsetsOf({ movements: [{ setting: 'rotation', ...bySteps, from: 0, to: 3 }] })).toEqual([
      0, 3, 6, 8, 11, 13,
    ])
    const swung = lane({
      pattern: { kind: 'euclid', pulses: 8, steps: 8, rotation: 0, key: 60, velocity: 90, accent: 0 },
      movements: [{ setting: 'swing', ...bySteps, from: 50, to: 75 }],
    })
    const notes = notesBetween(generatorOf({ kind: 'lanes', lanes: [swung] }), context, 0, 40_320)
    expect(notes.map((note) => note.onsetTicks).slice(6, 12)).toEqual([
      15_120, 17_640, 20_160, 23_940, 25_200, 28_980,
    ])
  })
})

describe('chord charts', () => {
  test('bars, halves, repeats and “as before”', () => {
    const { bars, problems } = readChart('Am7 | D7 G7 |: C | % :| x3\n# the end\nN.C. |')
    expect(problems).toEqual([])
    expect(bars.map((bar) => bar.map((chord) => chord?.symbol ?? '-').join(' '))).toEqual([
      'Am7',
      'D7 G7',
      'C',
      'C',
      'C',
      'C',
      'C',
      'C',
      '-',
    ])
  })

  test('the progressions to pick from are charts without a fault', () => {
    for (const chart of Object.values(progressions)) {
      const { bars, problems } = readChart(chart)
      expect(problems).toEqual([])
      expect(bars.length).toBeGreaterThan(3)
    }
  })

  test('what is wrong is said at its place', () => {
    expect(readChart('Am7 | Hoho | C').problems).toEqual([
      { line: 1, column: 7, text: '“Hoho” is not a chord symbol that is known here' },
    ])
    expect(readChart('|: C | F').problems[0]).toMatchObject({
      line: 1,
      text: expect.stringContaining('not closed'),
    })
    expect(readChart('% | C').problems[0]).toMatchObject({ line: 1, column: 1 })
    expect(readChart('')).toEqual({ bars: [], problems: [] })
    expect(readChart('|: C :| x64\n'.repeat(2000)).problems.length).toBeGreaterThan(0)
  })

  test('chord tones are those of tonal’s tables, the bass after a slash', () => {
    for (const symbol of ['C', 'Am', 'F#m7', 'Bb7', 'Dm7b5', 'Gsus4', 'Ebmaj7', 'A7#9', 'Cdim7', 'E+'])
      expect(readChord(symbol)!.pitchClasses).toEqual(
        Chord.get(symbol).notes.map((note) => Note.chroma(note)),
      )
    expect(readChord('C/E')).toMatchObject({ rootClass: 0, bassClass: 4 })
    expect(readChord('B♭')).toMatchObject({ rootClass: 10 })
    expect(readChord('Nothing')).toBeNull()
  })

  test('voices have the chord’s notes and move little', () => {
    let before: number[] = []
    for (const symbol of ['C', 'F', 'G7', 'Am', 'Dm', 'G', 'C']) {
      const chord = readChord(symbol)!
      const keys = voice(chord, 'close', 60, before)
      expect(new Set(keys.map((key) => key % 12))).toEqual(new Set(chord.pitchClasses))
      if (before.length > 0)
        for (const key of keys)
          expect(Math.min(...before.map((old) => Math.abs(old - key)))).toBeLessThanOrEqual(4)
      before = keys
    }
  })

  test.each(['straight', 'swing', 'waltz', 'slow', 'rolling'] as const)(
    'accompaniment, %s: on its channels, roots in the bass, any stretch the same',
    (feel) => {
      const generator = generatorOf(chartWork(feel), 5)
      const whole = notesBetween(generator, context, 0, 10_000_000)
      expect(new Set(whole.map((note) => note.channel))).toEqual(new Set([2, 3, 10]))
      for (const note of whole) {
        expect(note.durationTicks).toBeGreaterThan(0)
        expect(note.velocity).toBeLessThanOrEqual(127)
      }
      const pieces = [0, 7, 40_320, 100_000, 10_000_000]
      expect(
        pieces.slice(1).flatMap((to, index) => notesBetween(generator, context, pieces[index]!, to)),
      ).toEqual(whole)
      // A count-in of one bar, then two choruses of eight bars.
      const bassNotes = whole.filter((note) => note.channel === 2)
      expect(bassNotes[0]).toMatchObject({ onsetTicks: 40_320, key: 33 })
      expect(Math.max(...bassNotes.map((note) => note.onsetTicks))).toBeLessThan(17 * 40_320)
      expect(whole.filter((note) => note.onsetTicks < 40_320).map((note) => note.key)).toEqual([
        37, 37, 37, 37,
      ])
      expect(streamsOf(generator).map((stream) => stream.channel)).toEqual([2, 10, 3])
    },
  )

  test('a chord player holds, rolls and strums', () => {
    const work = (rhythm: 'held' | 'rolling' | 'on the beat', strumMs = 0): GeneratorWork => ({
      kind: 'chords',
      chart: 'C | F',
      voicing: 'close',
      rhythm,
      strumMs,
      middleKey: 60,
      gate: 90,
      velocity: 80,
      channel: 1,
      startBar: 1,
      choruses: 1,
    })
    const notes = (settings: GeneratorWork) => notesBetween(generatorOf(settings), context, 0, 1_000_000)
    expect(notes(work('held'))).toHaveLength(6)
    expect(notes(work('on the beat'))).toHaveLength(24)
    expect(notes(work('rolling'))).toHaveLength(16)
    // 20 ms at 120 bpm are 403.2 ticks.
    expect(
      notes(work('held', 20))
        .slice(0, 3)
        .map((note) => note.onsetTicks),
    ).toEqual([0, 403, 806])
  })
})

test('stored generators are read back, and bad ones are refused with the place', () => {
  const generator = generatorOf({ kind: 'lanes', lanes: [lane({})] })
  expect(generatorSchema.parse(JSON.parse(JSON.stringify(generator)))).toEqual(generator)
  const bad = { ...generator, work: { kind: 'lanes', lanes: [{ ...lane({}), channel: 17 }] } }
  expect(generatorSchema.safeParse(bad).error!.issues[0]!.path).toEqual(['work', 'lanes', 0, 'channel'])
  expect(problemsOf(chartWork('swing'))).toEqual([])
})
