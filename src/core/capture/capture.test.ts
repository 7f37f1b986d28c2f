import fc from 'fast-check'
import { plainRoute } from '../routing/route'
import { TempoMap } from '../time/tempoMap'
import { performPart } from './performer'
import { joinTakeEvents, TakeRecorder } from './takeEvents'
import { takeToNotes } from './takeToNotes'

const tempoMap = new TempoMap([{ tick: 0, tempoBpm: 120 }])
const placement = {
  takeSerial: 1,
  startTicks: 0,
  anchorMs: 1_000_000,
  endMs: 1_060_000,
  tempoMap,
  earlyMs: 60,
}
const tracks = [
  { id: 'flute', routes: [plainRoute({ portId: 'A', channel: 1 })] },
  { id: 'piano', routes: [plainRoute({ portId: 'A', channel: 2 })] },
  { id: 'other', routes: [plainRoute({ portId: 'B', channel: null })] },
]

function take(
  events: readonly [port: string, timeMs: number, status: number, data1: number, data2: number][],
) {
  const recorder = new TakeRecorder()
  for (const event of events) recorder.add(...event)
  return recorder.slice()
}

describe('a take becomes notes', () => {
  test('on the tracks that listen, at the time the source gave', () => {
    const { tracks: recorded, account } = takeToNotes(
      take([
        ['A', 1_000_500, 0x90, 72, 90],
        ['A', 1_000_750, 0x91, 48, 70],
        ['A', 1_001_000, 0x80, 72, 40],
        ['B', 1_001_000, 0x94, 50, 60],
        ['A', 1_002_000, 0x81, 48, 64],
        ['B', 1_001_500, 0x84, 50, 64],
      ]),
      placement,
      tracks,
      10,
    )
    const byTrack = Object.fromEntries(recorded.map((part) => [part.trackId, part.notes]))
    expect(byTrack.flute).toMatchObject([
      {
        onsetTicks: 10_080,
        durationTicks: 10_080,
        key: 72,
        releaseVelocity: 40,
        origin: { takeSerial: 1, eventIndex: 0 },
      },
    ])
    expect(byTrack.piano).toMatchObject([{ onsetTicks: 15_120, durationTicks: 25_200, key: 48 }])
    expect(byTrack.other).toMatchObject([{ key: 50, channel: 5 }])
    expect(account).toMatchObject({ heard: 3, captured: 3, inCountIn: 0, unrouted: 0, endedAtStop: 0 })
  })

  test('a note a little before the first bar belongs to its downbeat; one in the count-in stays in the take', () => {
    const { tracks: recorded, account } = takeToNotes(
      take([
        ['A', 999_000, 0x90, 60, 90],
        ['A', 999_200, 0x80, 60, 64],
        ['A', 999_950, 0x90, 62, 90],
        ['A', 1_000_500, 0x80, 62, 64],
      ]),
      placement,
      tracks,
      1,
    )
    expect(recorded[0]!.notes).toMatchObject([{ key: 62, onsetTicks: 0, durationTicks: 10_080 }])
    expect(account).toMatchObject({ heard: 2, captured: 1, inCountIn: 1 })
  })

  test('keys still down at the stop end there', () => {
    const { tracks: recorded, account } = takeToNotes(
      take([['A', 1_059_000, 0x90, 60, 90]]),
      placement,
      tracks,
      1,
    )
    expect(recorded[0]!.notes[0]!.durationTicks).toBe(20_160)
    expect(account.endedAtStop).toBe(1)
  })

  test('for any stream, every note-on is accounted for, on exactly the tracks that listen', () => {
    const event = fc.record({
      port: fc.constantFrom('A', 'B', 'C'),
      timeMs: fc.integer({ min: 998_000, max: 1_050_000 }),
      isOn: fc.boolean(),
      channel: fc.integer({ min: 1, max: 4 }),
      key: fc.integer({ min: 58, max: 62 }),
    })
    fc.assert(
      fc.property(fc.array(event, { maxLength: 80 }), (list) => {
        const sorted = [...list].sort((a, b) => a.timeMs - b.timeMs)
        const {
          tracks: recorded,
          account,
          nextNoteId,
        } = takeToNotes(
          take(
            sorted.map((each) => [
              each.port,
              each.timeMs,
              (each.isOn ? 0x90 : 0x80) | (each.channel - 1),
              each.key,
              64,
            ]),
          ),
          placement,
          tracks,
          100,
        )
        const notes = recorded.flatMap((part) => part.notes)
        expect(account.heard).toBe(list.filter((each) => each.isOn).length)
        expect(account.captured + account.inCountIn + account.unrouted).toBe(account.heard)
        expect(notes).toHaveLength(account.captured)
        expect(new Set(notes.map((note) => note.id)).size).toBe(notes.length)
        expect(nextNoteId).toBe(100 + notes.length)
        for (const note of notes) {
          expect(note.durationTicks).toBeGreaterThan(0)
          expect(note.onsetTicks).toBeGreaterThanOrEqual(0)
        }
      }),
    )
  })
})

describe('take events', () => {
  test('grow without losing any, and join in order', () => {
    const recorder = new TakeRecorder()
    for (let i = 0; i < 5000; i++) recorder.add(i % 2 ? 'A' : 'B', i + 0.123, 0x90, i % 128, 1)
    const joined = joinTakeEvents([take([['A', 1, 0x90, 1, 1]]), recorder.slice(0), recorder.slice(4999)])
    expect(joined.count).toBe(5002)
    expect(joined.timesMs[5000]).toBeCloseTo(4999.123, 9)
    expect(joined.portIds[joined.ports[1]!]).toBe('B')
  })
})

describe('a stand-in performing a part', () => {
  const part = Array.from({ length: 400 }, (_, index) => ({
    onsetTicks: index * 5040,
    durationTicks: 5040,
    key: 60 + (index % 12),
    velocity: 80,
  }))
  const habits = { channel: 3, deviationMs: 10, biasMs: 0, gate: 0.9, velocitySpread: 6, seed: 4 }

  test('plays the same with the same seed, otherwise differently', () => {
    expect(performPart(part, habits, tempoMap, 0)).toEqual(performPart(part, habits, tempoMap, 0))
    expect(performPart(part, { ...habits, seed: 5 }, tempoMap, 0)).not.toEqual(
      performPart(part, habits, tempoMap, 0),
    )
  })

  test('has the timing spread it says, and every note-on has its note-off', () => {
    const messages = performPart(part, habits, tempoMap, 0)
    const ons = messages.filter(({ bytes }) => bytes[0] === 0x92)
    expect(ons).toHaveLength(400)
    expect(messages.filter(({ bytes }) => bytes[0] === 0x82)).toHaveLength(400)
    const slips = ons.map((on, index) => on.timeMs - index * 250)
    const deviation = Math.sqrt(slips.reduce((sum, slip) => sum + slip * slip, 0) / slips.length)
    expect(deviation).toBeGreaterThan(7)
    expect(deviation).toBeLessThan(14)
  })
})
