import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Midi } from '@tonejs/midi'
import { WaveFile } from 'wavefile'
import {
  chordsByChance,
  compareNotes,
  lineByChance,
  playedBySampler,
  usualManner,
  withNoise,
} from '@/core/pitch/playedLines.testing'
import { typed } from './typed.testing'

const folder = mkdtempSync(join(tmpdir(), 'listen-'))

/** Written by a package that is not this program's. */
function wavFile(name: string, channels: readonly Float32Array[], sampleRate = 44_100): string {
  const file = join(folder, `${name}.wav`)
  const wav = new WaveFile()
  const samples = channels.map((channel) =>
    Float64Array.from(channel, (sample) => Math.round(Math.max(-1, Math.min(1, sample)) * 32_767)),
  )
  wav.fromScratch(channels.length, sampleRate, '16', samples.length === 1 ? samples[0]! : samples)
  writeFileSync(file, wav.toBuffer())
  return file
}

/** What the command hears in a sound, read by a reader that is not this program's. */
async function heardIn(name: string, sound: Float32Array, ...options: string[]) {
  const out = join(folder, `${name}.mid`)
  const { status, stdout, stderr } = await typed('listen', wavFile(name, [sound]), '--out', out, ...options)
  expect({ status, stderr }).toEqual({ status: 0, stderr: '' })
  const report = JSON.parse(stdout)
  const notes = new Midi(readFileSync(out)).tracks.flatMap((track) =>
    track.notes.map(({ midi, time, duration }) => ({
      key: midi,
      onsetMs: time * 1000,
      durationMs: duration * 1000,
    })),
  )
  expect(report.notes).toBe(notes.length)
  return { report, notes }
}

const clarinet = () => playedBySampler(lineByChance(928, 25, { ...usualManner, lowKey: 50, highKey: 84 }), 71)

// How exact it is on many instruments is judged in core/pitch/listening.test.ts.
describe('listening to a file', () => {
  test('a line becomes the notes that were played', async () => {
    const notes = lineByChance(928, 25, { ...usualManner, lowKey: 50, highKey: 84 })
    const { report, notes: heard } = await heardIn('line', clarinet(), '--preset', 'wind')
    expect(compareNotes(notes, heard).f1).toBeGreaterThan(0.95)
    expect(report).toMatchObject({ warnings: [], meanConfidence: expect.any(Number) })
    expect(report.meanConfidence).toBeGreaterThan(0.8)
  })

  test('chords become the notes that were played', async () => {
    const notes = chordsByChance(901, 8, 45, 84)
    const { notes: heard } = await heardIn('chords', playedBySampler(notes, 0), '--chords')
    expect(compareNotes(notes, heard).f1).toBeGreaterThan(0.9)
  })

  test('an instrument that is tuned too high is read, and how much is said; so is another concert pitch', async () => {
    const notes = lineByChance(928, 25, { ...usualManner, lowKey: 50, highKey: 84 })
    const sharp = playedBySampler(notes, 71, { bendCents: 35 })
    const { report, notes: heard } = await heardIn('sharp', sharp, '--preset', 'wind')
    expect(Math.abs(report.tuningCents - 35)).toBeLessThan(6)
    expect(compareNotes(notes, heard).f1).toBeGreaterThan(0.95)
    const { report: told } = await heardIn('told', sharp, '--preset', 'wind', '--a4', '449')
    expect(Math.abs(told.tuningCents)).toBeLessThan(6)
  })
})

describe('listening to what is no music, and to odd files', () => {
  const warningsOf = async (name: string, channels: readonly Float32Array[], sampleRate?: number) => {
    const file = wavFile(name, channels, sampleRate)
    const { status, stdout } = await typed('listen', file, '--out', join(folder, 'odd.mid'))
    expect(status).toBe(0)
    return JSON.parse(stdout)
  }
  test('silence, noise, hum and cut-off peaks are told', async () => {
    expect(await warningsOf('silence', [new Float32Array(100_000)])).toMatchObject({
      notes: 0,
      warnings: [expect.stringContaining('Nothing is to be heard')],
    })
    expect(
      await warningsOf('noise', [withNoise(new Float32Array(100_000).fill(0.0001), -60, 3)]),
    ).toMatchObject({
      notes: 0,
      warnings: [expect.stringContaining('hardly any pitch')],
    })
    const hum = Float32Array.from(
      { length: 150_000 },
      (_, index) => 0.02 * Math.sin((2 * Math.PI * 50 * index) / 44_100),
    )
    expect((await warningsOf('hum', [hum])).warnings).toContainEqual(expect.stringContaining('mains hum'))
    expect((await warningsOf('clipped', [clarinet().map((sample) => sample * 30)])).warnings).toContainEqual(
      expect.stringContaining('too loud'),
    )
    const weak = await warningsOf('weak', [clarinet().map((sample) => sample * 0.01)])
    expect(weak.warnings).toContainEqual(expect.stringContaining('weak'))
    expect(weak.notes).toBeGreaterThan(20)
  })

  test('somebody who speaks is told from somebody who plays', async () => {
    const file = join(folder, 'speech.wav')
    execFileSync('espeak-ng', [
      '-w',
      file,
      'Before the evening tide the lanterns are lit along the harbour wall, and everybody comes down to the quay.',
    ])
    const { stdout } = await typed('listen', file, '--out', join(folder, 'speech.mid'))
    expect(JSON.parse(stdout).warnings).toEqual([expect.stringContaining('speaking')])
    expect((await warningsOf('no speech', [clarinet()])).warnings).toEqual([])
  })

  test('eight channels at 8,000 samples to the second', async () => {
    const channel = Float32Array.from(
      { length: 24_000 },
      (_, index) => 0.3 * Math.sin((2 * Math.PI * 220 * index) / 8000),
    )
    expect(
      await warningsOf(
        'eight',
        Array.from({ length: 8 }, () => channel),
        8000,
      ),
    ).toMatchObject({
      seconds: 3,
      notes: 1,
      warnings: [],
    })
  })

  test('what cannot be read is refused with what and why, and wrong commands with the usage', async () => {
    const text = join(folder, 'text.wav')
    writeFileSync(text, 'no sound')
    expect(await typed('listen', text, '--out', join(folder, 'x.mid'))).toMatchObject({
      status: 1,
      stderr: expect.stringContaining('not a WAV file'),
    })
    expect(await typed('listen', text, '--out', 'x.mid', '--preset', 'kazoo')).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('--preset takes any, voice'),
    })
    expect((await typed('listen', text, '--out', 'x.mid', '--a4', 'high')).status).toBe(2)
  })
})
