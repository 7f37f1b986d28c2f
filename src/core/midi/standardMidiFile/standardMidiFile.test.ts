import fc from 'fast-check'
import { parseMidi } from 'midi-file'
import { inspectMidiFile } from './inspect'
import { largestMidiFileBytes, MidiFileError, type MidiFileEvent } from './model'
import { readMidiFile } from './read'
import { variableLengthBytes, writeMidiFile } from './write'

const bytesOf = (...parts: (string | number[])[]) =>
  Uint8Array.from(
    parts.flatMap((part) =>
      typeof part === 'string' ? [...part].map((letter) => letter.charCodeAt(0)) : part,
    ),
  )

/** A format 0 file with the given track body. */
const fileWith = (body: number[], division = [0, 96]) =>
  bytesOf(
    'MThd',
    [0, 0, 0, 6, 0, 0, 0, 1, ...division],
    'MTrk',
    [0, 0, (body.length >> 8) & 255, body.length & 255],
    body,
  )

const end = [0x00, 0xff, 0x2f, 0x00]

describe('variable-length numbers', () => {
  // Source: the table in Standard MIDI Files 1.0.
  test.each([
    [0x00, [0x00]],
    [0x40, [0x40]],
    [0x7f, [0x7f]],
    [0x80, [0x81, 0x00]],
    [0x2000, [0xc0, 0x00]],
    [0x3fff, [0xff, 0x7f]],
    [0x4000, [0x81, 0x80, 0x00]],
    [0x100000, [0xc0, 0x80, 0x00]],
    [0x1fffff, [0xff, 0xff, 0x7f]],
    [0x200000, [0x81, 0x80, 0x80, 0x00]],
    [0xfffffff, [0xff, 0xff, 0xff, 0x7f]],
  ])('%i', (value, bytes) => {
    expect(variableLengthBytes(value)).toEqual(bytes)
  })

  test('what does not fit is refused', () => {
    expect(() => variableLengthBytes(0x10000000)).toThrow(RangeError)
    expect(() => variableLengthBytes(-1)).toThrow(RangeError)
  })
})

describe('reading', () => {
  test('running status, note-on with velocity 0, tempo and meter', () => {
    const file = readMidiFile(
      fileWith([
        ...[0x00, 0xff, 0x51, 0x03, 0x07, 0xa1, 0x20],
        ...[0x00, 0xff, 0x58, 0x04, 0x06, 0x03, 0x24, 0x08],
        ...[0x00, 0x90, 60, 100, 0x60, 60, 0, 0x00, 64, 90, 0x60, 64, 0],
        ...end,
      ]),
    )
    expect(file.tracks[0]!.events).toEqual([
      { tick: 0, type: 'tempo', microsecondsPerQuarter: 500_000 },
      {
        tick: 0,
        type: 'meter',
        numerator: 6,
        denominator: 8,
        clocksPerClick: 36,
        thirtySecondsPerQuarter: 8,
      },
      { tick: 0, type: 'noteOn', channel: 1, key: 60, velocity: 100 },
      { tick: 96, type: 'noteOff', channel: 1, key: 60, velocity: 64 },
      { tick: 96, type: 'noteOn', channel: 1, key: 64, velocity: 90 },
      { tick: 192, type: 'noteOff', channel: 1, key: 64, velocity: 64 },
    ])
    expect(file.warnings).toEqual([])
  })

  test('a bend has 14 bits, low byte first', () => {
    expect(readMidiFile(fileWith([0x00, 0xe3, 0x00, 0x40, ...end])).tracks[0]!.events).toEqual([
      { tick: 0, type: 'bend', channel: 4, value: 8192 },
    ])
  })

  test('alien chunks are passed over, and said', () => {
    const file = readMidiFile(
      bytesOf('MThd', [0, 0, 0, 6, 0, 1, 0, 1, 0, 96], 'XFIH', [0, 0, 0, 2, 1, 2], 'MTrk', [0, 0, 0, 4], end),
    )
    expect(file.tracks).toHaveLength(1)
    expect(file.warnings.join()).toContain('XFIH')
  })

  test('hanging and overlapping notes are kept, counted and said', () => {
    const report = inspectMidiFile(
      readMidiFile(
        fileWith([
          0x00,
          0x90,
          60,
          100,
          0x10,
          60,
          90,
          0x10,
          0x80,
          60,
          64,
          0x10,
          0x90,
          62,
          80,
          0x60,
          ...end.slice(1),
        ]),
      ),
    )
    expect(report).toMatchObject({ notes: 3, hangingNotes: 2 })
    expect(report.warnings.join(' ')).toMatch(/2 notes have no end/)
    expect(report.warnings.join(' ')).toMatch(/struck while the same key was still down/)
    expect(report.tracks[0]).toMatchObject({ channel: 1, lowestKey: 60, highestKey: 62, firstTick: 0 })
  })

  test.each([
    ['nothing', new Uint8Array(0), /empty: it has zero bytes/],
    ['not a MIDI file', bytesOf('PK not midi at all'), /not a Standard MIDI File/],
    ['a cut header', bytesOf('MThd', [0, 0, 0, 6, 0]), /cut off inside its header/],
    ['SMPTE division', fileWith(end, [0xe7, 40]), /SMPTE frames \(25 a second\)/],
    ['zero division', fileWith(end, [0, 0]), /division is zero/],
    ['format 2', bytesOf('MThd', [0, 0, 0, 6, 0, 2, 0, 1, 0, 96], 'MTrk', [0, 0, 0, 4], end), /format 2/],
    [
      'a cut track',
      fileWith([0x00, 0x90, 60, 100, ...end]).slice(0, -3),
      /cut off: track 1 says it has 8 bytes/,
    ],
    [
      'missing tracks',
      bytesOf('MThd', [0, 0, 0, 6, 0, 1, 0, 3, 0, 96], 'MTrk', [0, 0, 0, 4], end),
      /says 3 tracks, but only 1/,
    ],
    ['data without status', fileWith([0x00, 60, 100, ...end]), /no status before it/],
    ['an event over the end', fileWith([0x00, 0x90, 60]), /ends inside/],
    ['20 MB', new Uint8Array(20 * 1024 * 1024), /20.0 MB; MIDI files up to 16 MB/],
  ])('%s is refused with what and where', (_, bytes, message) => {
    expect(() => readMidiFile(bytes)).toThrow(MidiFileError)
    expect(() => readMidiFile(bytes)).toThrow(message)
    expect(() => readMidiFile(bytes)).toThrow(/at byte/)
  })

  test('no bytes at all make it fail in another way', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), fc.boolean(), (noise, isTrack) => {
        const bytes = isTrack ? fileWith([...noise]) : noise
        try {
          readMidiFile(bytes)
        } catch (error) {
          expect(error).toBeInstanceOf(MidiFileError)
        }
      }),
      { numRuns: 1000 },
    )
    expect(largestMidiFileBytes).toBe(16_777_216)
  })
})

const channel = fc.integer({ min: 1, max: 16 })
const seven = fc.integer({ min: 0, max: 127 })
const tick = fc.integer({ min: 0, max: 1_000_000 })
const eventArbitrary: fc.Arbitrary<MidiFileEvent> = fc.oneof(
  fc.record({
    tick,
    type: fc.constant('noteOn' as const),
    channel,
    key: seven,
    velocity: fc.integer({ min: 1, max: 127 }),
  }),
  fc.record({ tick, type: fc.constant('noteOff' as const), channel, key: seven, velocity: seven }),
  fc.record({ tick, type: fc.constant('controller' as const), channel, number: seven, value: seven }),
  fc.record({ tick, type: fc.constant('program' as const), channel, program: seven }),
  fc.record({
    tick,
    type: fc.constant('bend' as const),
    channel,
    value: fc.integer({ min: 0, max: 16_383 }),
  }),
  fc.record({ tick, type: fc.constant('channelPressure' as const), channel, value: seven }),
  fc.record({ tick, type: fc.constant('keyPressure' as const), channel, key: seven, value: seven }),
  fc.record({
    tick,
    type: fc.constant('tempo' as const),
    microsecondsPerQuarter: fc.integer({ min: 1, max: 0xffffff }),
  }),
  fc.record({ tick, type: fc.constant('trackName' as const), text: fc.string({ maxLength: 30 }) }),
  fc.record({
    tick,
    type: fc.constant('keySignature' as const),
    fifths: fc.integer({ min: -7, max: 7 }),
    mode: fc.constantFrom('major' as const, 'minor' as const),
  }),
)

test('what is written is read back whole, by us and by the package midi-file', () => {
  fc.assert(
    fc.property(
      fc.array(fc.array(eventArbitrary, { maxLength: 40 }), { minLength: 1, maxLength: 5 }),
      fc.integer({ min: 24, max: 15_360 }),
      (lists, division) => {
        const tracks = lists.map((events) => ({ events, endTick: 1_000_000 }))
        const bytes = writeMidiFile({ format: 1, divisionTicksPerQuarter: division, tracks })
        const read = readMidiFile(bytes)
        const sorted = (events: readonly unknown[]) => events.map((event) => JSON.stringify(event)).sort()
        expect(read.divisionTicksPerQuarter).toBe(division)
        for (const [index, track] of read.tracks.entries())
          expect(sorted(track.events)).toEqual(sorted(lists[index]!))
        const other = parseMidi(bytes)
        expect(other.header).toMatchObject({ format: 1, ticksPerBeat: division, numTracks: lists.length })
        for (const [index, track] of other.tracks.entries()) {
          expect(track.filter((event) => event.type === 'noteOn' && event.velocity > 0)).toHaveLength(
            lists[index]!.filter((event) => event.type === 'noteOn').length,
          )
          expect(track.filter((event) => event.type === 'controller')).toHaveLength(
            lists[index]!.filter((event) => event.type === 'controller').length,
          )
          expect(track.reduce((sum, event) => sum + event.deltaTime, 0)).toBe(1_000_000)
        }
      },
    ),
    { numRuns: 150 },
  )
})

test('a gap longer than a variable-length number holds, and a note that lasts no time, come back as they were', () => {
  const tracks = [
    {
      events: [
        { tick: 0, type: 'noteOn' as const, channel: 1, key: 60, velocity: 80 },
        { tick: 0, type: 'noteOff' as const, channel: 1, key: 60, velocity: 64 },
        { tick: 700_000_000, type: 'noteOn' as const, channel: 1, key: 62, velocity: 80 },
        { tick: 700_000_001, type: 'noteOff' as const, channel: 1, key: 62, velocity: 64 },
      ],
      endTick: 1_000_000_000,
    },
  ]
  const bytes = writeMidiFile({ format: 0, divisionTicksPerQuarter: 480, tracks })
  const [track] = readMidiFile(bytes).tracks
  expect(track!.events.filter((event) => event.type !== 'text')).toEqual(tracks[0]!.events)
  expect(track!.endTick).toBe(1_000_000_000)
  // The package midi-file shares no code with ours.
  let tick = 0
  const ons = parseMidi(bytes).tracks[0]!.flatMap((event) => {
    tick += event.deltaTime
    return event.type === 'noteOn' ? [tick] : []
  })
  expect(ons).toEqual([0, 700_000_000])
})
