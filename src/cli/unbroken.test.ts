import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Midi } from '@tonejs/midi'
import { unzipSync } from 'fflate'
import { inventedForTwoHands } from '@/core/beats/freeMusic.testing'
import { playFreely } from '@/core/beats/freePlayer.testing'
import { createDemo } from '@/core/demo/harbourEvening'
import { projectToMidi } from '@/core/formats/projectToMidi'
import type { MidiFileEvent } from '@/core/midi/standardMidiFile/model'
import { fileParts } from '@/core/midi/standardMidiFile/parts'
import { readMidiFile } from '@/core/midi/standardMidiFile/read'
import { writeMidiFile } from '@/core/midi/standardMidiFile/write'
import { knownMusic, mergedNotes } from '@/core/separation/voices/knownMusic.testing'
import { lookIntoPdf } from '@/engine/print/pdfReader.testing'
import { typed } from './typed.testing'

const folder = mkdtempSync(join(tmpdir(), 'unbroken-'))
const demo = createDemo('demo', 0, 'computer-keyboard').project
const input = join(folder, 'demo.mid')
writeFileSync(input, writeMidiFile(projectToMidi(demo, demo.tracks, 480)))

/** Its first bar alone, for what takes as long as the music does. */
function shortFile(): string {
  const firstBar = demo.tracks.map((track) => ({
    ...track,
    clips: track.clips.map((clip) => ({
      ...clip,
      notes: clip.notes.filter(({ onsetTicks }) => onsetTicks < 40_320),
    })),
  }))
  const path = join(folder, 'short.mid')
  writeFileSync(path, writeMidiFile(projectToMidi({ ...demo, tracks: firstBar }, firstBar, 480)))
  return path
}

describe('batch commands', () => {
  test('inspect', async () => {
    const { status, stdout, stderr } = await typed('inspect', input)
    expect({ status, stderr }).toEqual({ status: 0, stderr: '' })
    const report = JSON.parse(stdout)
    expect(report).toMatchObject({
      format: 1,
      divisionTicksPerQuarter: 480,
      notes: 255,
      hangingNotes: 0,
      tempos: [{ tick: 0, bpm: 92 }],
      meters: [{ tick: 0, numerator: 4, denominator: 4 }],
    })
    expect(report.tracks.map((track: { name: string; notes: number }) => [track.name, track.notes])).toEqual([
      ['Orla’s flute', 63],
      ['Benno’s piano', 141],
      ['Sefa’s harp', 51],
    ])
  })

  test('render: the whole and each part as sound of one length, as it is said', async () => {
    const short = shortFile()
    const [out, stems] = [join(folder, 'short.wav'), join(folder, 'stems of short')]
    const rendered = await typed(
      'render',
      short,
      '--out',
      out,
      '--stems',
      stems,
      '--bits',
      '16',
      '--rate',
      '44100',
    )
    expect(rendered.status).toBe(0)
    const { seconds, stems: files } = JSON.parse(rendered.stdout)
    expect(readdirSync(stems).sort()).toEqual(files.map(({ file }: { file: string }) => file).sort())
    expect(files).toHaveLength(3)
    const wholeBytes = readFileSync(out).length
    expect((wholeBytes - 44) / 4 / 44_100).toBeCloseTo(seconds, 5)
    for (const { file } of files) expect(readFileSync(join(stems, file)).length).toBe(wholeBytes)
    expect((await typed('render', short, '--out', out, '--bits', '12')).status).toBe(2)
    expect((await typed('render', join(folder, 'nowhere.mid'), '--out', out)).status).toBe(1)
  }, 60_000)

  test('score, plain and compressed', async () => {
    const plain = join(folder, 'demo.musicxml')
    const { status, stdout } = await typed(
      'score',
      input,
      '--out',
      plain,
      '--split',
      'C4',
      '--grid',
      '16',
      '--tuplets',
      'on',
    )
    expect(status).toBe(0)
    expect(JSON.parse(stdout)).toMatchObject({ captured: 255, written: 255, merged: 0, filtered: [] })
    expect(readFileSync(plain, 'utf8')).toContain('<score-partwise')
    const packed = join(folder, 'demo.mxl')
    expect((await typed('score', input, '--out', packed)).status).toBe(0)
    const entries = unzipSync(readFileSync(packed))
    expect(Object.keys(entries)).toEqual(['META-INF/container.xml', 'score.musicxml'])
  })

  test('floors filter, and the account says so', async () => {
    const { stdout } = await typed(
      'score',
      input,
      '--out',
      join(folder, 'few.musicxml'),
      '--min-velocity',
      '80',
    )
    const report = JSON.parse(stdout)
    const filtered = report.filtered.reduce((sum: number, { count }: { count: number }) => sum + count, 0)
    expect(filtered).toBeGreaterThan(0)
    expect(report.captured).toBe(report.written + report.merged + filtered)
  })

  test('split and stems keep every note', async () => {
    const out = join(folder, 'split.mid')
    expect(JSON.parse((await typed('split', input, '--by', 'channel', '--out', out)).stdout)).toMatchObject({
      captured: 255,
      written: 255,
      merged: 0,
      unsure: 0,
    })
    expect(readMidiFile(readFileSync(out)).format).toBe(1)
    const directory = join(folder, 'stems')
    expect(JSON.parse((await typed('stems', input, '--out', directory)).stdout).notes).toBe(255)
    expect(readdirSync(directory)).toHaveLength(4)
  })

  describe('a player whose lines are all on one channel', () => {
    const oneChannel = join(folder, 'one-channel.mid')
    const out = join(folder, 'apart.mid')
    const controllers = (bytes: Uint8Array) =>
      readMidiFile(bytes).tracks.map(
        (track) => track.events.filter(({ type }) => type === 'controller').length,
      )

    beforeAll(() => {
      const music = knownMusic.find(({ kind }) => kind === 'lines')!
      const at = (quarters: number) => Math.round(quarters * 480)
      const notes = mergedNotes(music).flatMap(({ onsetQuarters, endQuarters, key }) => [
        { tick: at(onsetQuarters), type: 'noteOn' as const, channel: 3, key, velocity: 80 },
        { tick: at(endQuarters), type: 'noteOff' as const, channel: 3, key, velocity: 64 },
      ])
      const pedal = { tick: 10, type: 'controller' as const, channel: 3, number: 64, value: 127 }
      const tempo = { tick: 0, type: 'tempo' as const, microsecondsPerQuarter: 600_000 }
      const rank = ({ type }: { type: string }) => (type === 'noteOn' ? 1 : 0)
      const events = [tempo, pedal, ...notes].sort((a, b) => a.tick - b.tick || rank(a) - rank(b))
      writeFileSync(
        oneChannel,
        writeMidiFile({
          format: 1,
          divisionTicksPerQuarter: 480,
          tracks: [{ events, endTick: events.at(-1)!.tick }],
        }),
      )
    })

    test('by voice: a track and a channel for each line found, with every controller, and nothing lost', async () => {
      const report = JSON.parse((await typed('split', oneChannel, '--by', 'voice', '--out', out)).stdout)
      expect(report.written).toBe(report.captured)
      expect(report.parts.map(({ name }: { name: string }) => name)).toEqual(
        [1, 2, 3, 4].map((voice) => `Channel 3, voice ${voice}`),
      )
      expect(new Set(report.parts.map(({ channel }: { channel: number }) => channel)).size).toBe(4)
      const heights = report.parts.map(({ highestKey }: { highestKey: number }) => highestKey)
      expect(heights).toEqual([...heights].sort((a, b) => b - a))
      const written = readFileSync(out)
      expect(controllers(written)).toEqual([0, 1, 1, 1, 1])
      const counts = fileParts(readMidiFile(written))
      expect(counts.reduce((sum, { notes }) => sum + notes.length, 0)).toBe(report.captured)
      expect(counts.every(({ hangingNotes, strayNoteOffs }) => hangingNotes + strayNoteOffs === 0)).toBe(true)
    })

    test.each([
      [
        ['voice', '--voices', '2'],
        ['voice 1', 'voice 2'],
      ],
      [['hand'], ['right hand', 'left hand']],
      [['line'], ['melody', 'accompaniment', 'bass']],
      [
        ['key', '--at', 'C4,C5'],
        ['from C5', 'from C4', 'below C4'],
      ],
    ])('by %j', async (way, names) => {
      const report = JSON.parse((await typed('split', oneChannel, '--by', ...way, '--out', out)).stdout)
      expect(report.written).toBe(report.captured)
      expect(report.parts.map(({ name }: { name: string }) => name)).toEqual(
        names.map((name) => `Channel 3, ${name}`),
      )
    })

    test('twenty voices are too many, and keys have names', async () => {
      const ask = (...way: string[]) => typed('split', oneChannel, '--out', out, '--by', ...way)
      expect(await ask('voice', '--voices', '20')).toMatchObject({
        status: 2,
        stderr: expect.stringMatching(/from 1 to 8/),
      })
      expect(await ask('key', '--at', 'H2')).toMatchObject({
        status: 2,
        stderr: expect.stringMatching(/there is no key "H2"/),
      })
      expect(await ask('key')).toMatchObject({
        status: 2,
        stderr: expect.stringMatching(/--at C4 is missing/),
      })
      expect(await ask('hand', '--voices', '2')).toMatchObject({
        status: 2,
        stderr: expect.stringMatching(/--voices goes with --by voice/),
      })
    })
  })

  test.each(['voice', 'hand', 'line', 'key', 'drum'])(
    'one note, years after the beginning, by %s',
    async (by) => {
      const far = join(folder, 'far.mid')
      writeFileSync(
        far,
        Buffer.from('4d546864000000060000000100014d54726b0000000fffffff7f903c5001803c4000ff2f00', 'hex'),
      )
      const at = by === 'key' ? ['--at', 'C4'] : []
      const { stdout } = await typed('split', far, '--by', by, ...at, '--out', join(folder, 'far-apart.mid'))
      expect(JSON.parse(stdout)).toMatchObject({ captured: 1, written: 1, unsure: 0 })
    },
  )

  test('a kit on a channel of its own, known by its name, is taken apart by drum; by voice it stays whole', async () => {
    const kit = join(folder, 'kit.mid')
    const out = join(folder, 'kit-apart.mid')
    const strokes = [36, 42, 38, 44].flatMap((key, index) => [
      { tick: index * 240, type: 'noteOn' as const, channel: 4, key, velocity: 90 },
      { tick: index * 240 + 60, type: 'noteOff' as const, channel: 4, key, velocity: 64 },
    ])
    const events = [{ tick: 0, type: 'trackName' as const, text: 'Drum kit' }, ...strokes]
    writeFileSync(
      kit,
      writeMidiFile({ format: 1, divisionTicksPerQuarter: 480, tracks: [{ events, endTick: 960 }] }),
    )
    const names = async (by: string) =>
      JSON.parse((await typed('split', kit, '--by', by, '--out', out)).stdout).parts.map(
        ({ name, channel, notes }: { name: string; channel: number; notes: number }) => [
          name,
          channel,
          notes,
        ],
      )
    expect(await names('drum')).toEqual([
      ['Drum kit, Bass drum', 4, 1],
      ['Drum kit, Hi-hat', 4, 2],
      ['Drum kit, Snare drum', 4, 1],
    ])
    expect(await names('voice')).toEqual([['Drum kit', 4, 4]])
  })

  test('midicsv, where it is installed, reads what was split', () => {
    let lines: string
    try {
      lines = execFileSync('midicsv', [join(folder, 'split.mid')], { encoding: 'utf8' })
    } catch (error) {
      expect((error as NodeJS.ErrnoException).code).toBe('ENOENT')
      return
    }
    expect(lines.split('\n').filter((line) => /Note_on_c, \d+, \d+, [1-9]/.test(line))).toHaveLength(255)
  })

  test('effects: a chain over every track; the same seed gives the same file, another one another', async () => {
    const chain = join(folder, 'chain.json')
    writeFileSync(
      chain,
      JSON.stringify([
        { kind: 'chordInKey', settings: { tonic: 'D', scale: 'minor', steps: [2, 4] } },
        { kind: 'arpeggio', settings: { rate: '1/16', order: 'by chance' } },
        { kind: 'probability', settings: { share: 60 } },
        { kind: 'dealVoices', settings: { voices: 2 } },
      ]),
    )
    const printed = async (seed: string, name: string) => {
      const out = join(folder, name)
      const { status, stdout, stderr } = await typed(
        'effects',
        input,
        '--chain',
        chain,
        '--seed',
        seed,
        '--out',
        out,
      )
      expect({ status, stderr }).toEqual({ status: 0, stderr: '' })
      const report = JSON.parse(stdout)
      expect(report.notesIn).toBe(255)
      const file = readMidiFile(readFileSync(out))
      const ons = file.tracks
        .flatMap((track) => track.events)
        .filter((event) => event.type === 'noteOn').length
      expect(ons).toBe(report.notes)
      return readFileSync(out).toString('base64')
    }
    expect(await printed('7', 'a.mid')).toBe(await printed('7', 'b.mid'))
    expect(await printed('8', 'c.mid')).not.toBe(await printed('7', 'd.mid'))
  })

  test('generate: lanes, a chart, ABC and lists', async () => {
    const written = async (name: string, text: string) => {
      const file = join(folder, name)
      writeFileSync(file, text)
      const { status, stdout, stderr } = await typed('generate', file, '--out', join(folder, 'generated.mid'))
      expect({ status, stderr }).toEqual({ status: 0, stderr: '' })
      return JSON.parse(stdout)
    }
    const band = {
      kind: 'accompaniment',
      chart: '|: Am7 | D7 :|',
      feel: 'swing',
      countInBars: 1,
      choruses: 1,
      startBar: 1,
      bassChannel: 2,
      drumsChannel: 10,
      compingChannel: 3,
    }
    expect((await written('band.json', JSON.stringify({ tempoBpm: 96, work: band }))).tracks).toMatchObject([
      { channel: 2 },
      { channel: 10 },
      { channel: 3 },
    ])
    expect((await written('tune.abc', 'X:1\nL:1/4\nK:G\n|: G A B c :|\n')).notes).toBe(8)
    expect((await written('parts.txt', 'part A\nC4 1/4 E4 G4+C5 1/2\n')).notes).toBe(4)
  })

  test.each([
    ['effects', 'bad.json', '[{"kind":"arpeggio","settings":{"octaves":99}}]', /"0.settings.octaves"/],
    ['effects', 'bad.json', '[{"kind":"wobble"}]', /"0.kind"/],
    ['effects', 'bad.json', '{', /not JSON/],
    ['generate', 'bad.json', '{"work":{"kind":"lanes","lanes":[{"id":"a"}]}}', /"work.lanes.0/],
    ['generate', 'bad.abc', 'X:1\nK:C\nC D ? E\n', /bad.abc:3:5: “\?” means nothing here/],
  ])('%s refuses %s: %s', async (command, name, text, message) => {
    const file = join(folder, name)
    writeFileSync(file, text)
    const out = ['--out', join(folder, 'never.mid')]
    const result =
      command === 'effects'
        ? await typed('effects', input, '--chain', file, ...out)
        : await typed('generate', file, ...out)
    expect(result.status).toBe(1)
    expect(result.stdout).toBe('')
    expect(result.stderr).toMatch(message)
  })

  test.each([
    [['inspect', '/no/such/file.mid'], 1, /There is no file/],
    [['inspect', __filename], 1, /not a Standard MIDI File/],
    [['score', 'x.mid'], 2, /--out FILE.musicxml is missing/],
    [['score', input, '--out', join(folder, 'x.musicxml'), '--grid', '7'], 2, /--grid takes/],
    [['score', input, '--out', '/no/such/folder/x.musicxml'], 1, /cannot be written/],
    [['split', input, '--by', 'mood', '--out', 'x.mid'], 2, /--by takes channel, voice/],
    [['dance'], 2, /no command "dance"/],
    [[], 2, /Usage/],
    [['inspect', '--wrong', input], 2, /Unknown option/],
  ])('%j ends with %i', async (args, status, message) => {
    const result = await typed(...(args as string[]))
    expect(result.status).toBe(status)
    expect(result.stdout).toBe('')
    expect(result.stderr).toMatch(message)
  })

  test('bars of what was played freely: the same notes at the same moments, with tempo and meter', async () => {
    const played = playFreely(inventedForTwoHands(3, 7, 20), 3)
    const tickOf = (ms: number) => Math.round((ms / 500) * 960)
    const events = played.notes
      .flatMap(({ onsetMs, endMs, key, velocity }): MidiFileEvent[] => [
        { tick: tickOf(onsetMs), type: 'noteOn', channel: 1, key, velocity },
        { tick: tickOf(endMs), type: 'noteOff', channel: 1, key, velocity: 64 },
      ])
      .sort((a, b) => a.tick - b.tick)
    const free = join(folder, 'free.mid')
    const tracks = [{ events, endTick: events.at(-1)!.tick }]
    writeFileSync(free, writeMidiFile({ format: 0, divisionTicksPerQuarter: 960, tracks }))
    const out = join(folder, 'barred.mid')
    const { status, stdout } = await typed('bars', free, '--out', out)
    expect(status).toBe(0)
    const report = JSON.parse(stdout)
    expect(Object.keys(report)).toEqual(['beatsPerMinute', 'meter', 'bars', 'pickupBeats', 'confidence'])
    expect(report.meter).toBe('3/4')
    // @tonejs/midi reads the moments: a reader of another author.
    const times = (path: string) =>
      new Midi(readFileSync(path)).tracks
        .flatMap(({ notes }) => notes.map(({ time, midi }) => ({ time, midi })))
        .sort((a, b) => a.time - b.time || a.midi - b.midi)
    const [before, after] = [times(free), times(out)]
    expect(after).toHaveLength(before.length)
    for (const [index, { time }] of after.entries())
      expect(Math.abs(time - before[index]!.time)).toBeLessThan(0.002)

    const two = join(folder, 'two.mid')
    writeFileSync(
      two,
      writeMidiFile({
        format: 0,
        divisionTicksPerQuarter: 960,
        tracks: [{ events: events.slice(0, 2), endTick: 9999 }],
      }),
    )
    const refused = await typed('bars', two, '--out', out)
    expect(refused.status).toBe(1)
    expect(refused.stderr).toContain('too few to find bars in')
  })
})

test('a score and its parts as a PDF', async () => {
  const out = join(folder, 'demo.pdf')
  const { status, stdout } = await typed('score', input, '--out', out, '--parts', '--paper', 'A3')
  expect(status).toBe(0)
  expect(JSON.parse(stdout).books.map(({ name }: { name: string }) => name)).toEqual([
    'Score',
    'Orla’s flute',
    'Benno’s piano',
    'Sefa’s harp',
  ])
  const found = lookIntoPdf(readFileSync(out))
  expect(found).toMatchObject({ pages: 4, size: '841.89 x 1190.55', images: 0 })
  expect(found.texts[2]).toContain('Benno’s piano')
  expect((await typed('score', input, '--out', out, '--paper', 'A9')).stderr).toContain(
    '--paper takes A4, letter',
  )
  expect((await typed('score', input, '--out', join(folder, 'x.mxl'), '--parts')).status).toBe(2)
})

// All the rest is asked of the same function in this process.
describe('several files at once', () => {
  const copies = ['first', 'second', 'third'].map((name) => {
    const path = join(folder, `${name}.mid`)
    writeFileSync(path, readFileSync(shortFile()))
    return path
  })
  const bad = join(folder, 'bad.mid')
  writeFileSync(bad, 'no MIDI')

  test('each becomes a file of its own; one that is bad is told and stops none of the others', async () => {
    const out = join(folder, 'scores')
    const { status, stdout, stderr } = await typed('score', ...copies, bad, '--out-dir', out, '--grid', '8')
    expect(status).toBe(1)
    const answers = JSON.parse(stdout)
    expect(answers).toHaveLength(4)
    expect(answers[1]).toMatchObject({
      file: copies[1],
      out: join(out, 'second.musicxml'),
      written: expect.any(Number),
    })
    expect(answers[3].problem).toMatch(/not a Standard MIDI File/)
    expect(readdirSync(out).sort()).toEqual(['first.musicxml', 'second.musicxml', 'third.musicxml'])
    expect(stderr).toMatch(/^1 of 4: .*first\.mid\n/)
  })

  test('in another form, and two of one name are kept apart', async () => {
    const out = join(folder, 'forms')
    const { status, stdout } = await typed(
      'convert',
      copies[0]!,
      copies[0]!,
      '--out-dir',
      out,
      '--to',
      'mei',
      '--jobs',
      '2',
    )
    expect([status, JSON.parse(stdout).length]).toEqual([0, 2])
    expect(readdirSync(out).sort()).toEqual(['first (2).mei', 'first.mei'])
  })

  test('what belongs to one file goes into a folder of its own, and nothing is written over', async () => {
    const sheets = join(folder, 'sheets of two')
    const { status } = await typed(
      ...['score', copies[0]!, copies[1]!, '--out-dir', join(folder, 'pages'), '--to', 'pdf'],
      ...['--parts-dir', sheets],
    )
    expect([status, readdirSync(sheets).sort()]).toEqual([0, ['first', 'second']])
    expect(readdirSync(join(sheets, 'second'))).toHaveLength(3)
    const file = await typed('bars', copies[0]!, '--out-dir', join(copies[0]!, 'no folder'))
    expect([file.status, file.stderr]).toEqual([1, expect.stringContaining('cannot be made')])
  })

  test.each([
    [['score', ...copies], /Several files need --out-dir/],
    [['inspect', ...copies], /inspect takes one file at a time/],
    [['score', copies[0]!, '--jobs', '2', '--out', 'x.musicxml'], /--jobs is for several files/],
    [['score', ...copies, '--out-dir', folder, '--jobs', '0'], /--jobs takes a number from 1 to 64/],
    [['score', ...copies, '--out-dir', folder, '--out', 'x.musicxml'], /cannot both be/],
    [['convert', ...copies, '--out-dir', folder, '--to', '../x'], /--to takes an ending/],
  ])('%j is refused', async (args, words) => {
    const { status, stderr } = await typed(...args)
    expect(status).toBe(2)
    expect(stderr).toMatch(words)
  })
})

test('players get their own sheets: a PDF for each part', async () => {
  const out = join(folder, 'with sheets.pdf')
  const sheets = join(folder, 'sheets')
  const { status, stdout } = await typed('score', shortFile(), '--out', out, '--parts-dir', sheets)
  expect(status).toBe(0)
  const names = readdirSync(sheets).sort()
  expect(names).toEqual(['01 Orla’s flute.pdf', '02 Benno’s piano.pdf', '03 Sefa’s harp.pdf'])
  expect(JSON.parse(stdout).parts.map(({ pages }: { pages: number }) => pages)).toEqual([1, 1, 1])
  for (const name of names) expect(lookIntoPdf(readFileSync(join(sheets, name))).pages).toBe(1)
})

test('what this program is, and what a command takes', async () => {
  expect(await typed('--version')).toMatchObject({
    status: 0,
    stdout: expect.stringMatching(/^\d+\.\d+\.\d+\n$/),
  })
  const { status, stderr } = await typed('listen', '--help')
  expect(status).toBe(0)
  expect(stderr).toContain('listen FILE.wav')
  expect(stderr).not.toContain('generate SPEC')
  expect((await typed('score', input, '--out', 'x.musicxml', '--mood', 'calm')).stderr).toContain("'--mood'")
})

describe('the built command, started as a program', () => {
  const start = (...args: string[]) => spawnSync('node', ['bin/unbroken.mjs', ...args], { encoding: 'utf8' })
  beforeAll(() => execFileSync('node', ['scripts/build-command.mjs']))

  test('what it answers goes to standard output, and nothing else does', () => {
    const { status, stdout, stderr } = start('inspect', input)
    expect({ status, stderr }).toEqual({ status: 0, stderr: '' })
    expect(JSON.parse(stdout).notes).toBe(255)
  })

  test('from any folder it finds what it loads only for some commands: fonts, the engraving library, instruments', () => {
    const here = (...args: string[]) =>
      spawnSync('node', [join(process.cwd(), 'bin/unbroken.mjs'), ...args], { encoding: 'utf8', cwd: folder })
    const printed = here('score', 'demo.mid', '--out', 'built.pdf')
    expect(printed).toMatchObject({ status: 0, stderr: '' })
    expect(lookIntoPdf(readFileSync(join(folder, 'built.pdf'))).pages).toBe(1)
    const sounded = here('render', shortFile(), '--out', 'built.ogg')
    expect(sounded).toMatchObject({ status: 0, stderr: '' })
    expect(readFileSync(join(folder, 'built.ogg')).subarray(0, 4).toString('latin1')).toBe('OggS')
  })

  test('a bad input ends with 1, its words on standard error', () => {
    const { status, stdout, stderr } = start('inspect', '/no/such/file.mid')
    expect({ status, stdout }).toEqual({ status: 1, stdout: '' })
    expect(stderr).toContain('There is no file /no/such/file.mid')
  })
})
