import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { createDemo } from '@/core/demo/harbourEvening'
import { projectToMidi } from '@/core/formats/projectToMidi'
import { readMidiFile } from '@/core/midi/standardMidiFile/read'
import { writeMidiFile } from '@/core/midi/standardMidiFile/write'

const folder = mkdtempSync(join(tmpdir(), 'unbroken-'))
const demo = createDemo('demo', 0, 'computer-keyboard').project
const input = join(folder, 'demo.mid')
writeFileSync(input, writeMidiFile(projectToMidi(demo, demo.tracks, 480)))

function unbroken(...args: string[]) {
  return spawnSync('node', ['--import', 'tsx', 'src/cli/unbroken.ts', ...args], { encoding: 'utf8' })
}

describe('batch commands', () => {
  test('inspect', () => {
    const { status, stdout, stderr } = unbroken('inspect', input)
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

  test('score, plain and compressed', () => {
    const plain = join(folder, 'demo.musicxml')
    const { status, stdout } = unbroken(
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
    expect(unbroken('score', input, '--out', packed).status).toBe(0)
    const entries = unzipSync(readFileSync(packed))
    expect(Object.keys(entries)).toEqual(['META-INF/container.xml', 'score.musicxml'])
  })

  test('floors filter, and the account says so', () => {
    const { stdout } = unbroken('score', input, '--out', join(folder, 'few.musicxml'), '--min-velocity', '80')
    const report = JSON.parse(stdout)
    const filtered = report.filtered.reduce((sum: number, { count }: { count: number }) => sum + count, 0)
    expect(filtered).toBeGreaterThan(0)
    expect(report.captured).toBe(report.written + report.merged + filtered)
  })

  test('split and stems keep every note', () => {
    const out = join(folder, 'split.mid')
    expect(JSON.parse(unbroken('split', input, '--by', 'channel', '--out', out).stdout).notes).toBe(255)
    expect(readMidiFile(readFileSync(out)).format).toBe(1)
    const directory = join(folder, 'stems')
    expect(JSON.parse(unbroken('stems', input, '--out', directory).stdout).notes).toBe(255)
    expect(readdirSync(directory)).toHaveLength(4)
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

  test.each([
    [['inspect', '/no/such/file.mid'], 1, /There is no file/],
    [['inspect', __filename], 1, /not a Standard MIDI File/],
    [['score', 'x.mid'], 2, /--out FILE.musicxml is missing/],
    [['score', input, '--out', join(folder, 'x.musicxml'), '--grid', '7'], 2, /--grid takes/],
    [['score', input, '--out', '/no/such/folder/x.musicxml'], 1, /cannot be written/],
    [['split', input, '--by', 'mood', '--out', 'x.mid'], 2, /--by takes channel/],
    [['dance'], 2, /no command "dance"/],
    [[], 2, /Usage/],
    [['inspect', '--wrong', input], 2, /Unknown option/],
  ])('%j ends with %i', (args, status, message) => {
    const result = unbroken(...(args as string[]))
    expect(result.status).toBe(status)
    expect(result.stdout).toBe('')
    expect(result.stderr).toMatch(message)
  })
})
