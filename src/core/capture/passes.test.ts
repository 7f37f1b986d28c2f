import fc from 'fast-check'
import { plainRoute } from '../routing/route'
import { TempoMap } from '../time/tempoMap'
import { splitPasses } from './passes'
import { TakeRecorder } from './takeEvents'
import { takeToNotes } from './takeToNotes'

const loop = { anchorMs: 10_000, passMs: 2000, earlyMs: 60 }

function recorded(events: readonly [timeMs: number, status: number, data1: number, data2: number][]) {
  const recorder = new TakeRecorder()
  for (const [timeMs, ...bytes] of events) recorder.add('A', timeMs, ...bytes)
  return recorder.slice()
}
const shape = (passes: ReturnType<typeof splitPasses>) =>
  passes.map((pass) => [pass.index, [...pass.events.timesMs]])

describe('passes of a loop', () => {
  test('a note just before the loop turns belongs to the downbeat of the pass that follows', () => {
    const events = recorded([
      [10_500, 0x90, 60, 80],
      [11_000, 0x80, 60, 64],
      [11_945, 0x90, 62, 80],
      [12_400, 0x80, 62, 64],
    ])
    const passes = splitPasses(events, loop, 14_000)
    expect(shape(passes)).toEqual([
      [0, [10_500, 11_000]],
      [1, [11_945, 12_400]],
    ])
    const notes = takeToNotes(
      passes[1]!.events,
      {
        takeSerial: 2,
        startTicks: 0,
        anchorMs: passes[1]!.anchorMs,
        endMs: passes[1]!.endMs,
        tempoMap: new TempoMap([{ tick: 0, tempoBpm: 120 }]),
        earlyMs: 60,
      },
      [{ id: 't', routes: [plainRoute({ portId: 'A', channel: 1 })] }],
      1,
    )
    expect(notes.tracks[0]!.notes).toMatchObject([{ key: 62, onsetTicks: 0, durationTicks: 8064 }])
  })

  test('a note held over the end is whole in the pass it began in', () => {
    const passes = splitPasses(
      recorded([
        [11_500, 0x90, 60, 80],
        [12_900, 0x80, 60, 64],
        [13_000, 0x90, 64, 80],
        [13_100, 0x80, 64, 64],
      ]),
      loop,
      14_000,
    )
    expect(shape(passes)).toEqual([
      [0, [11_500, 12_900]],
      [1, [13_000, 13_100]],
    ])
  })

  test('a pedal held over the end comes up in the pass it went down in', () => {
    const passes = splitPasses(
      recorded([
        [11_000, 0xb0, 64, 127],
        [12_500, 0xb0, 64, 0],
        [12_600, 0xb0, 64, 127],
        [12_700, 0xb0, 64, 0],
      ]),
      loop,
      14_000,
    )
    expect(shape(passes)).toEqual([
      [0, [11_000, 12_500]],
      [1, [12_600, 12_700]],
    ])
  })

  test('early for a pass that never came stays in the last one', () => {
    const passes = splitPasses(recorded([[13_960, 0x90, 60, 80]]), loop, 13_980)
    expect(passes.map((pass) => pass.index)).toEqual([1])
  })

  test('the count-in belongs to the first pass', () => {
    expect(splitPasses(recorded([[8000, 0x90, 60, 80]]), loop, 14_000)[0]!.index).toBe(0)
  })

  const stream = fc.array(
    fc.record({
      gapMs: fc.integer({ min: 0, max: 900 }),
      key: fc.integer({ min: 60, max: 64 }),
      kind: fc.constantFrom('on', 'off', 'pedal'),
      value: fc.integer({ min: 1, max: 127 }),
    }),
    { maxLength: 80 },
  )

  test('for any stream and loop: every event is in exactly one pass, every release in that of its stroke', () => {
    fc.assert(
      fc.property(
        stream,
        fc.integer({ min: 300, max: 4000 }),
        fc.integer({ min: 0, max: 150 }),
        (moves, passMs, earlyMs) => {
          let timeMs = 9000
          const events = recorded(
            moves.map(({ gapMs, key, kind, value }) => {
              timeMs += gapMs
              if (kind === 'pedal') return [timeMs, 0xb0, 64, value]
              return [timeMs, kind === 'on' ? 0x90 : 0x80, key, value]
            }),
          )
          const passes = splitPasses(events, { anchorMs: 10_000, passMs, earlyMs }, timeMs + 1)
          const rows = (from: typeof events) =>
            Array.from({ length: from.count }, (_, i) =>
              [from.timesMs[i], from.statuses[i], from.data1[i], from.data2[i]].join(' '),
            )
          expect(passes.flatMap((pass) => rows(pass.events)).sort()).toEqual(rows(events).sort())
          // Each pass by itself has as many releases that answer a stroke as the whole: no pair was torn. A key that is struck again
          // has one stroke to be answered; a second release of it answers none.
          const answered = (from: typeof events) => {
            const down = new Set<number>()
            let count = 0
            for (let i = 0; i < from.count; i++) {
              const key = from.data1[i]!
              if (from.statuses[i] === 0x90) down.add(key)
              else if (from.statuses[i] === 0x80 && down.delete(key)) count++
            }
            return count
          }
          const inPasses = passes.reduce((sum, pass) => sum + answered(pass.events), 0)
          expect(inPasses).toBe(answered(events))
        },
      ),
      {
        examples: [
          // Struck twice, released twice: the second release answers nothing.
          [
            [
              { gapMs: 0, key: 62, kind: 'on' as const, value: 1 },
              { gapMs: 430, key: 62, kind: 'on' as const, value: 1 },
              { gapMs: 681, key: 62, kind: 'off' as const, value: 1 },
              { gapMs: 139, key: 62, kind: 'off' as const, value: 1 },
            ],
            300,
            50,
          ],
        ],
      },
    )
  })
})
