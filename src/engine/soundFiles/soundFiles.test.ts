import { readFileSync } from 'node:fs'
import { OggVorbisDecoder } from '@wasm-audio-decoders/ogg-vorbis'
import { WaveFile } from 'wavefile'
import { createDemo } from '@/core/demo/harbourEvening'
import { changeNotes } from '@/core/project/commands'
import { contextOf } from '@/core/project/context'
import { soundingNotes } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import { playedThrough } from './playedThrough'
import { renderSoundFiles, type SoundFile } from './soundFiles'
import { soundOrderOf } from './soundOrder'

const bank = async (id: string): Promise<ArrayBuffer> => {
  const file = readFileSync(`public/instruments/${id}.sf3`)
  return file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength) as ArrayBuffer
}
const bar = 40_320
const whole = createDemo('demo', 0, 'computer-keyboard').project

/** The first two bars of the demo: all parts. */
const demo: Project = whole.tracks.reduce<Project>(
  (project, { id }) =>
    changeNotes(project, id, (notes) => notes.filter(({ onsetTicks }) => onsetTicks < 2 * bar)),
  whole,
)
const wish = { sampleRate: 44_100, form: 'wav', bits: 24, withStems: true } as const
const oggWasm = async () =>
  Uint8Array.from(readFileSync('node_modules/wasm-media-encoders/wasm/ogg.wasm')).buffer

/** All files of an order, and what is said of them. */
async function rendering(order: Parameters<typeof renderSoundFiles>[0]) {
  const files: SoundFile[] = []
  const account = await renderSoundFiles(order, { bankOf: bank, oggWasm }, (file, index) => {
    files[index] = file
  })
  return { ...account, files }
}

/** Samples of a file, by a reader that shares no code with the writer. */
const samplesOf = (bytes: Uint8Array): number[][] =>
  (new WaveFile(bytes).getSamples(false, Float64Array as never) as unknown as Float64Array[]).map((channel) =>
    [...channel].map((sample) => sample / 2 ** 23),
  )

test('every note of a piece is told once, at its moment, and ends', () => {
  const { messages, lastsMs } = soundOrderOf(whole, wish)
  const commands = playedThrough(messages, lastsMs)
  const ons = commands.filter(({ status, data2 }) => (status & 0xf0) === 0x90 && data2 > 0)
  const { tempoMap } = contextOf(whole)
  const expected = whole.tracks.flatMap((track, index) =>
    soundingNotes(track).map(({ onsetTicks, key }) => ({
      atSeconds: tempoMap.msAt(onsetTicks) / 1000,
      synthChannel: index + 1,
      key,
    })),
  )
  expect(ons).toHaveLength(expected.length)
  for (const { atSeconds, synthChannel, key } of expected)
    expect(
      ons.some(
        (on) =>
          on.synthChannel === synthChannel && on.data1 === key && Math.abs(on.atSeconds - atSeconds) < 0.001,
      ),
    ).toBe(true)
  const offs = commands.filter(
    ({ status, data2 }) => (status & 0xf0) === 0x80 || ((status & 0xf0) === 0x90 && data2 === 0),
  )
  expect(offs).toHaveLength(ons.length)
})

describe('the first bars as sound files', () => {
  let rendered: Awaited<ReturnType<typeof rendering>>
  beforeAll(async () => {
    rendered = await rendering(soundOrderOf(demo, wish))
  }, 120_000)

  test('the whole and a file for each track that plays, of one length, nothing beyond full scale', () => {
    expect(rendered.files.map(({ name }) => name)).toEqual([
      'Lamps on the Ebb',
      'Orla’s flute',
      'Benno’s piano',
      'Sefa’s harp',
    ])
    const lengths = rendered.files.map(({ bytes }) => bytes.length)
    expect(new Set(lengths).size).toBe(1)
    for (const { peakDb } of rendered.files) expect(peakDb).toBeLessThan(0)
    expect(rendered.seconds).toBeGreaterThan((8 * 60) / 92)
  })

  test('the tracks together are the whole', () => {
    expect(rendered.sumDiffersDb!).toBeLessThan(-90)
    const [all, ...parts] = rendered.files.map(({ bytes }) => samplesOf(bytes)[0]!)
    let furthest = 0
    for (let frame = 0; frame < all!.length; frame += 7)
      furthest = Math.max(
        furthest,
        Math.abs(all![frame]! - parts.reduce((sum, part) => sum + part[frame]!, 0)),
      )
    expect(furthest).toBeLessThan(1e-5)
  })

  test('no track sounds before its first note is due', () => {
    const { tempoMap } = contextOf(demo)
    for (const [index, track] of demo.tracks.slice(0, 3).entries()) {
      const [left] = samplesOf(rendered.files[index + 1]!.bytes)
      const firstFrame = left!.findIndex((sample) => Math.abs(sample) > 1e-5)
      const lateMs = (firstFrame / 44_100) * 1000 - tempoMap.msAt(soundingNotes(track)[0]!.onsetTicks)
      expect(lateMs).toBeGreaterThanOrEqual(-0.1)
      // A recorded instrument takes a moment to be louder than a hundred-thousandth.
      expect(lateMs).toBeLessThan(12)
    }
  })

  test('what is scheduled 37 ms later sounds 37 ms later, to a millisecond', async () => {
    const [flute] = demo.tracks
    const later: Project = { ...demo, tracks: [{ ...flute!, offsetMs: 37 }] }
    const alone: Project = { ...demo, tracks: [flute!] }
    const soundOf = async (project: Project) =>
      samplesOf((await rendering(soundOrderOf(project, { ...wish, withStems: false }))).files[0]!.bytes)[0]!
    const [there, moved] = [await soundOf(alone), await soundOf(later)]
    const likeness = (lag: number) => {
      let sum = 0
      for (let frame = 4000; frame < 60_000; frame++) sum += there[frame]! * moved[frame + lag]!
      return sum
    }
    const due = Math.round(0.037 * 44_100)
    const lags = Array.from({ length: 177 }, (_, index) => due - 88 + index)
    const best = lags.reduce((a, b) => (likeness(b) > likeness(a) ? b : a))
    expect(Math.abs(best - due)).toBeLessThanOrEqual(44)
  }, 60_000)

  test('an hour is the most that is rendered, and a longer piece says how long it is', async () => {
    const order = { ...soundOrderOf(demo, wish), lastsMs: 3_700_000 }
    await expect(rendering(order)).rejects.toThrow('it lasts 62 minutes; up to 60')
  })

  test('what is muted is not in it; a piece that would be too loud is made softer as a whole, and that is said', async () => {
    const [flute, ...others] = demo.tracks
    const loud: Project = {
      ...demo,
      tracks: [{ ...flute!, isMuted: true }, ...others.map((track) => ({ ...track, volume: 1 }))],
    }
    const manyTimes: Project = {
      ...loud,
      tracks: loud.tracks.map((track) => ({
        ...track,
        clips: track.clips.map((clip) => ({
          ...clip,
          notes: clip.notes.flatMap((note) =>
            Array.from({ length: 24 }, (_, up) => up - 12).map((up, place) => ({
              ...note,
              id: note.id * 100 + place,
              key: Math.max(0, Math.min(127, note.key + up)),
              velocity: 127,
            })),
          ),
        })),
      })),
    }
    const result = await rendering(soundOrderOf(manyTimes, { ...wish, withStems: false }))
    expect(result.files).toHaveLength(1)
    expect(result.softerDb).toBeGreaterThan(0)
    expect(result.files[0]!.peakDb).toBeLessThanOrEqual(-0.17)
    expect(result.sumDiffersDb).toBeNull()
  }, 120_000)
})

test('compressed, it is as long to the sample, and is heard as it was', async () => {
  const order = soundOrderOf(demo, { ...wish, withStems: false })
  const [plain] = (await rendering(order)).files
  const { files } = await rendering({ ...order, form: 'ogg' })
  const bytes = files[0]!.bytes
  expect(new TextDecoder().decode(bytes.subarray(0, 4))).toBe('OggS')
  expect(bytes.length).toBeLessThan(plain!.bytes.length / 5)
  // Read by libvorbis, as another package has it.
  const decoder = new OggVorbisDecoder()
  await decoder.ready
  const { channelData, sampleRate } = await decoder.decodeFile(bytes)
  decoder.free()
  expect(sampleRate).toBe(44_100)
  const wanted = samplesOf(plain!.bytes)
  for (const [channel, samples] of wanted.entries()) {
    const found = channelData[channel]!
    expect(found).toHaveLength(samples.length)
    let [both, own, other] = [0, 0, 0]
    for (const [frame, sample] of samples.entries()) {
      both += sample * found[frame]!
      own += sample * sample
      other += found[frame]! ** 2
    }
    expect(both / Math.sqrt(own * other)).toBeGreaterThan(0.99)
  }
}, 60_000)
