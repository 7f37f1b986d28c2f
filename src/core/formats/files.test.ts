import { Midi } from '@tonejs/midi'
import fc from 'fast-check'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { createDemo } from '../demo/harbourEvening'
import type { MidiFileEvent } from '../midi/standardMidiFile/model'
import { fileParts } from '../midi/standardMidiFile/parts'
import { readMidiFile } from '../midi/standardMidiFile/read'
import { writeMidiFile } from '../midi/standardMidiFile/write'
import { readProjectHead } from '../project/migrate'
import { headingsOf, scoreOf } from '../project/onPage'
import { projectSchemaVersion } from '../project/schema'
import { proveMidi } from '../proof/proveMidi'
import { plainRoute } from '../routing/route'
import { safeFileName, separateFile, stemFiles } from '../separation/splitFile'
import { ImportError, midiToProject } from './midiToProject'
import { writeMusicXml } from './musicXml'
import { readProjectFile, writeProjectFile } from './projectFile'
import { projectToMidi } from './projectToMidi'
import { OptionError, parseScoreOptions, scoreFromFile } from './scoreFromFile'

const identity = { id: 'x', name: 'Brought in', nowMs: 0 }
const demo = createDemo('demo', 1_700_000_000_000, 'computer-keyboard')
const demoMidi = writeMidiFile(projectToMidi(demo.project, demo.project.tracks, 960))

/** A format 0 file with three channels, a pedal, a bend and a tempo change. */
const threeChannels = (() => {
  const events: MidiFileEvent[] = [
    { tick: 0, type: 'trackName', text: 'Evening' },
    { tick: 0, type: 'tempo', microsecondsPerQuarter: 600_000 },
    { tick: 960, type: 'tempo', microsecondsPerQuarter: 500_000 },
    { tick: 0, type: 'meter', numerator: 3, denominator: 4, clocksPerClick: 24, thirtySecondsPerQuarter: 8 },
    { tick: 0, type: 'keySignature', fifths: -3, mode: 'minor' },
    { tick: 0, type: 'program', channel: 1, program: 68 },
    { tick: 0, type: 'controller', channel: 1, number: 7, value: 64 },
    { tick: 10, type: 'controller', channel: 2, number: 64, value: 127 },
    { tick: 20, type: 'bend', channel: 2, value: 9000 },
    { tick: 0, type: 'sysex', status: 0xf0, bytes: Uint8Array.from([0x7e, 0x7f, 0x09, 0x01, 0xf7]) },
  ]
  for (const [channel, key] of [
    [1, 72],
    [2, 48],
    [10, 38],
  ] as const)
    for (let beat = 0; beat < 6; beat++) {
      events.push({ tick: beat * 480, type: 'noteOn', channel, key, velocity: 60 + beat })
      events.push({ tick: beat * 480 + 400, type: 'noteOff', channel, key, velocity: 64 })
    }
  return { format: 0 as const, divisionTicksPerQuarter: 480, tracks: [{ events, endTick: 2880 }] }
})()

describe('a MIDI file becomes a project', () => {
  const { project } = midiToProject({ ...threeChannels, warnings: [] }, identity)

  test('one track for each channel, with names, programs, tempo, meter and key', () => {
    expect(project.tracks.map((track) => [track.name, track.channel, track.instrument])).toEqual([
      ['Evening, Oboe', 1, { kind: 'program', program: 68 }],
      ['Evening, Channel 2', 2, { kind: 'program', program: 0 }],
      ['Evening, Drums', 10, { kind: 'drums' }],
    ])
    expect(project.tempos).toEqual([
      { tick: 0, tempoBpm: 100 },
      { tick: 20_160, tempoBpm: 120 },
    ])
    expect(project.meters).toEqual([{ tick: 0, numerator: 3, denominator: 4 }])
    expect(project.keys).toEqual([{ tick: 0, fifths: -3, mode: 'minor' }])
    expect(project.tracks[0]!.volume).toBeCloseTo(64 / 127, 9)
    expect(project.tracks[1]!.clips[0]!.controllers).toHaveLength(2)
    expect(project.tracks[0]!.clips[0]!.notes[1]).toMatchObject({
      onsetTicks: 10_080,
      durationTicks: 8400,
      key: 72,
      velocity: 61,
    })
  })

  test('and back, with the same notes by two other readers', () => {
    const bytes = writeMidiFile(projectToMidi(project, project.tracks, 480))
    expect(proveMidi(bytes, project.tracks)).toMatchObject({
      isProved: true,
      expectedNotes: 18,
      foundNotes: 18,
    })
    const other = new Midi(bytes)
    expect(other.header.tempos.map((tempo) => [tempo.ticks, Math.round(tempo.bpm)])).toEqual([
      [0, 100],
      [960, 120],
    ])
    const named = other.tracks.filter((track) => track.notes.length > 0)
    expect(named.map((track) => [track.name, track.channel, track.notes.length])).toEqual([
      ['Evening, Oboe', 0, 6],
      ['Evening, Channel 2', 1, 6],
      ['Evening, Drums', 9, 6],
    ])
    expect(named[0]!.notes.map((note) => [note.ticks, note.durationTicks])).toEqual(
      [0, 1, 2, 3, 4, 5].map((beat) => [beat * 480, 400]),
    )
  })

  test('a proof sees a note that was changed', () => {
    const bytes = writeMidiFile(projectToMidi(project, project.tracks, 480))
    const changed = project.tracks.map((track) => ({
      ...track,
      clips: track.clips.map((clip) => ({
        ...clip,
        notes: clip.notes.map((note, index) => (index === 2 ? { ...note, key: note.key + 1 } : note)),
      })),
    }))
    const proof = proveMidi(bytes, changed)
    expect(proof.isProved).toBe(false)
    expect(proof.differences[0]).toMatch(/key 72|key 73/)
  })

  test('nothing to open, or too many tracks, is said', () => {
    expect(() =>
      midiToProject(
        { format: 1, divisionTicksPerQuarter: 96, warnings: [], tracks: [{ events: [], endTick: 0 }] },
        identity,
      ),
    ).toThrow(ImportError)
    const many = Array.from({ length: 3000 }, (_, index) => ({
      events: [
        { tick: 0, type: 'noteOn' as const, channel: (index % 16) + 1, key: 60, velocity: 64 },
        { tick: 96, type: 'noteOff' as const, channel: (index % 16) + 1, key: 60, velocity: 64 },
      ],
      endTick: 96,
    }))
    const bytes = writeMidiFile({ format: 1, divisionTicksPerQuarter: 96, tracks: many })
    expect(() => midiToProject(readMidiFile(bytes), identity)).toThrow(/3,000 tracks with notes; up to 512/)
  })
})

describe('separating a file', () => {
  const events = (file: { tracks: readonly { events: readonly MidiFileEvent[] }[] }) =>
    file.tracks
      .flatMap((track) => track.events)
      .filter((event) => event.type !== 'trackName')
      .map((event) => JSON.stringify(event))
      .sort()

  test('by channel keeps every event', () => {
    const { file, parts } = separateFile({ ...threeChannels, warnings: [] }, { by: 'channel' })
    expect(parts.map((part) => [part.channel, part.notes])).toEqual([
      [1, 6],
      [2, 6],
      [10, 6],
    ])
    expect(events(readMidiFile(writeMidiFile(file)))).toEqual(events(threeChannels))
  })

  test('stems hold tempo and meter each, and together every channel event', () => {
    const stems = stemFiles({ ...threeChannels, warnings: [] })
    expect(stems.map((stem) => stem.fileName)).toEqual([
      '01 Evening, Oboe.mid',
      '02 Evening, Channel 2.mid',
      '03 Evening, Drums.mid',
    ])
    for (const stem of stems) {
      const read = readMidiFile(writeMidiFile(stem.file))
      expect(read.tracks[0]!.events.filter((event) => event.type === 'tempo')).toHaveLength(2)
      expect(fileParts(read)).toHaveLength(1)
    }
  })

  test('names become names of files, whatever they hold', () => {
    expect(safeFileName('../..//etc/passwd')).toBe('etc passwd')
    expect(safeFileName('<b>a:b*?</b>')).toBe('b a b b')
    expect(safeFileName('...')).toBe('untitled')
    fc.assert(
      fc.property(fc.string(), (name) => expect(safeFileName(name)).toMatch(/^[^/\\:*?"<>|]{1,160}$/)),
    )
  })
})

describe('the project file', () => {
  const sounds = [1, 2].map((second) => ({
    outline: {
      streamId: 'one',
      portId: 'sound:a',
      startMs: second * 1000.25,
      sampleRate: 48_000,
      sampleCount: 48_000,
      firstSample: second * 48_000,
      byteLength: 3,
      peaks: Uint8Array.of(0, 255),
      places: Int16Array.of(-1, 6012),
      confidences: Uint8Array.of(0, 200),
    },
    flac: Uint8Array.of(second, 2, 3),
  }))
  const whole = {
    assets: [],
    project: demo.project,
    takes: [{ takeSerial: demo.takeSerial, events: demo.events }],
    sounds,
  }
  const packed = writeProjectFile(whole)

  test('comes back the same, takes as played, with their sound', () => {
    const read = readProjectFile(packed)
    expect(read.project).toEqual(demo.project)
    expect(read.takes).toEqual([{ takeSerial: demo.takeSerial, events: demo.events }])
    expect(read.sounds).toEqual(sounds)
  })

  test('a second of sound that is damaged is left out, and told', () => {
    const { 'sounds/2.flac': _gone, ...rest } = unzipSync(packed)
    const read = readProjectFile(zipSync(rest))
    expect(read.sounds).toEqual([sounds[0]])
    expect(read.aside).toEqual([expect.objectContaining({ path: 'sounds/2.json' })])
  })

  test.each([
    ['no archive', strToU8('not a zip'), /cannot be unpacked/],
    ['an archive of something else', zipSync({ 'a.txt': strToU8('a') }), /no project.json/],
    [
      'a newer version',
      zipSync({ 'project.json': strToU8(JSON.stringify({ schemaVersion: projectSchemaVersion + 1 })) }),
      /newer version of Unbroken Voice/,
    ],
    ['broken JSON', zipSync({ 'project.json': strToU8('{') }), /not JSON/],
    [
      'a damaged head',
      zipSync({ 'project.json': strToU8(JSON.stringify({ schemaVersion: 1, id: 'x' })) }),
      /damaged or missing/,
    ],
    ['cut in half', packed.slice(0, packed.length / 2), /cannot be unpacked/],
  ])('%s is refused with a reason', (_, bytes, message) => {
    expect(() => readProjectFile(bytes)).toThrow(message)
  })

  test('whatever is saved opens: what could not be opened again is not written, and that is said', () => {
    const saved = writeProjectFile(whole)
    const unpackedBytes = Object.values(unzipSync(saved)).reduce((sum, { length }) => sum + length, 0)
    expect(readProjectFile(writeProjectFile(whole, unpackedBytes), unpackedBytes).aside).toEqual([])
    for (const most of [unpackedBytes - 1, 1000, 0]) {
      expect(() => writeProjectFile(whole, most)).toThrow(/no more than \d+ MB can be opened again/)
      expect(() => readProjectFile(saved, most)).toThrow(/would unpack to more than/)
    }
  })
})

describe('older projects', () => {
  const track = {
    id: 'track-1',
    name: 'Flute',
    thread: 0,
    input: { portId: 'stand-in-port', channel: 3 },
    instrument: { kind: 'program', program: 73 },
    channel: 1,
    volume: 0.8,
    pan: 0,
    isMuted: false,
    isSolo: false,
    isArmed: true,
    effects: [],
    printedFromTrackId: null,
    staffSplitKey: 'auto',
    isOnPage: true,
    clips: [{ id: 'clip-3', name: 'Take 1', takeSerial: 2, isSounding: true }],
  }
  /** As version 1 stored it. */
  const first = {
    schemaVersion: 1,
    id: 'old',
    name: 'Old piece',
    subtitle: '',
    createdAtMs: 5,
    tempos: [{ tick: 0, tempoBpm: 90 }],
    meters: [{ tick: 0, numerator: 3, denominator: 4 }],
    key: null,
    sources: [
      {
        id: 's',
        name: 'Flute',
        kind: 'standIn',
        address: { portId: 'stand-in-port', channel: 3 },
        description: 'wind',
      },
    ],
    tracks: [
      track,
      { ...track, id: 'track-2', input: null },
      { ...track, id: 'track-4', input: { portId: 'nobody', channel: null } },
    ],
    takes: [
      {
        serial: 2,
        name: 'Take 1',
        recordedAtMs: 9,
        startTicks: 0,
        anchorMs: 9,
        durationMs: 100,
        eventCount: 4,
      },
    ],
    scoreSettings: demo.project.scoreSettings,
    countInBars: 2,
    isClickOn: false,
    nextSerial: 9,
  }

  test('of version 1 open with everything they had', () => {
    const { head: now, aside } = readProjectHead(JSON.parse(JSON.stringify(first)))
    expect(aside).toEqual([])
    expect(now.tracks.map((each) => each.routes)).toEqual([
      [plainRoute({ portId: 'stand-in-port', channel: 3 })],
      [],
      [],
    ])
    expect(now).toMatchObject({
      countIn: 2,
      click: { isOn: false },
      isListening: true,
      takes: [{ tempos: first.tempos }],
    })
  })

  test('of version 2, with the one effect there was, and of version 3, whose effects could not rest', () => {
    const settings = { rate: '1/8', direction: 'up', octaves: 1, gate: 0.5, seed: 3 }
    const effects = [{ id: 'a', kind: 'arpeggio', isOn: true, settings }]
    const { tracks, sources, takes, recording, generators: _none, ...rest } = readProjectHead(first).head
    const second = {
      ...rest,
      schemaVersion: 2,
      tracks: tracks.map(({ effectChanges: _c, doEffectsRest: _r, ...track }) => ({ ...track, effects })),
      sources: sources.map(({ effects: _e, ...source }) => source),
      takes: takes.map(({ chains: _c, ...take }) => take),
      recording: { ...recording, keeps: undefined },
    }
    const { head: now } = readProjectHead(JSON.parse(JSON.stringify(second)))
    expect(now.tracks[0]).toMatchObject({
      effects: [{ kind: 'arpeggio', seed: 3, settings: { order: 'up', gate: 50 } }],
      effectChanges: [],
      doEffectsRest: false,
    })
    expect(now).toMatchObject({ generators: [], recording: { keeps: 'result' }, takes: [{ chains: [] }] })
    const third = {
      ...now,
      schemaVersion: 3,
      tracks: now.tracks.map(({ doEffectsRest: _r, ...track }) => track),
    }
    expect(readProjectHead(JSON.parse(JSON.stringify(third))).head).toEqual(now)
  })

  test('of version 4, in which tracks were only made by printing', () => {
    const { tracks, recording, sections: _s, ...rest } = readProjectHead(first).head
    const { isThrownEachTurn: _t, ...recordingThen } = recording
    const fourth = {
      ...rest,
      schemaVersion: 4,
      recording: recordingThen,
      tracks: tracks.map(({ madeFrom: _m, tuningCents: _c, keyNames: _k, ...old }, index) => ({
        ...old,
        printedFromTrackId: index === 1 ? tracks[0]!.id : null,
      })),
    }
    const { head: now, aside } = readProjectHead(JSON.parse(JSON.stringify(fourth)))
    expect(aside).toEqual([])
    expect(now.sections).toEqual([])
    expect(now.recording.isThrownEachTurn).toBe(false)
    expect(
      now.tracks.map(({ madeFrom, tuningCents, keyNames }) => [madeFrom, tuningCents, keyNames]),
    ).toEqual([
      [null, 0, []],
      [{ trackIds: [tracks[0]!.id], by: 'printing' }, 0, []],
      [null, 0, []],
    ])
  })

  test('of version 5, without words', () => {
    const {
      words: _w,
      composer: _c,
      rights: _r,
      scoreSettings,
      tracks,
      ...rest
    } = readProjectHead(first).head
    const { writesWords: _s, ...settingsThen } = scoreSettings
    const fifth = {
      ...rest,
      schemaVersion: 5,
      scoreSettings: { ...settingsThen, splitKey: 55 },
      tracks: tracks.map(({ writtenAs: _a, ...track }) => track),
    }
    const { head: now, aside } = readProjectHead(JSON.parse(JSON.stringify(fifth)))
    expect(aside).toEqual([])
    expect(now).toMatchObject({ words: [], composer: '', rights: '' })
    expect(now.scoreSettings).toMatchObject({ writesWords: true, splitKey: 55 })
    expect(now.tracks).toEqual(tracks)
  })

  test('without a step to the next version are refused, and the reason is said', () => {
    expect(() => readProjectHead(first, {})).toThrow(/cannot be brought up to date/)
    expect(() => readProjectHead({})).toThrow(/does not say which version/)
  })
})

describe('score from a MIDI file', () => {
  test('gives the account and the parts', () => {
    const { report } = scoreFromFile(demoMidi, 'Demo', parseScoreOptions({}))
    expect(report).toMatchObject({ captured: 255, written: 255, merged: 0, filtered: [] })
    expect(report.parts.map((part) => [part.name, part.staves, part.clefs])).toEqual([
      ['Orla’s flute', 1, ['treble']],
      ['Benno’s piano', 2, ['treble', 'bass']],
      ['Sefa’s harp', 1, ['treble']],
    ])
  })

  test.each([
    [{ split: 'H2' }, /--split takes hands, a note name/],
    [{ grid: '12' }, /--grid takes 4, 8, 16 or 32/],
    [{ tuplets: 'maybe' }, /--tuplets takes on or off/],
    [{ 'min-velocity': 'x' }, /--min-velocity takes a number/],
    [{ 'min-velocity': '500' }, /0 to 127/],
  ])('%j is refused', (options, message) => {
    expect(() => parseScoreOptions(options)).toThrow(OptionError)
    expect(() => parseScoreOptions(options)).toThrow(message)
  })
})

test('every key event of a file is kept, comes back in a file, and stands at its bar', () => {
  const events: MidiFileEvent[] = [
    { tick: 0, type: 'keySignature', fifths: 0, mode: 'major' },
    { tick: 4 * 1920, type: 'keySignature', fifths: -4, mode: 'minor' },
    // Behind the music it is of no bar of the page.
    { tick: 40 * 1920, type: 'keySignature', fifths: 1, mode: 'major' },
    // Said again, it says nothing.
    { tick: 6 * 1920, type: 'keySignature', fifths: -4, mode: 'minor' },
    { tick: 8 * 1920, type: 'keySignature', fifths: 7, mode: 'major' },
    ...Array.from({ length: 12 }, (_, bar): MidiFileEvent[] => [
      { tick: bar * 1920, type: 'noteOn', channel: 1, key: 60 + bar, velocity: 80 },
      { tick: bar * 1920 + 1900, type: 'noteOff', channel: 1, key: 60 + bar, velocity: 64 },
    ]).flat(),
  ]
  const file = readMidiFile(
    writeMidiFile({ format: 0, divisionTicksPerQuarter: 480, tracks: [{ events, endTick: 40 * 1920 }] }),
  )
  const { project } = midiToProject(file, { id: 'p', name: 'Keys', nowMs: 0 })
  const bar = 40_320
  const keys = [
    { tick: 0, fifths: 0, mode: 'major' },
    { tick: 4 * bar, fifths: -4, mode: 'minor' },
    { tick: 8 * bar, fifths: 7, mode: 'major' },
  ]
  expect(project.keys).toEqual([...keys, { tick: 40 * bar, fifths: 1, mode: 'major' }])
  expect(scoreOf(project).keys).toEqual(keys)
  const again = readMidiFile(writeMidiFile(projectToMidi(project, project.tracks, 480)))
  expect(midiToProject(again, { id: 'q', name: 'Keys', nowMs: 0 }).project.keys).toEqual(project.keys)
  const musicXml = writeMusicXml(scoreOf(project), headingsOf(project))
  expect(
    [...musicXml.matchAll(/<measure number="(\d+)">(?:(?!<\/measure>)[\s\S])*?<fifths>(-?\d+)/g)].map(
      ([, number, fifths]) => [number, fifths],
    ),
  ).toEqual([
    ['1', '0'],
    ['5', '-4'],
    ['9', '7'],
  ])
})
