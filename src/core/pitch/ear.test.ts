import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readWav } from '../sound/readWav'
import { Ear, type EarPicture } from './ear'
import type { FollowedMessage } from './followedMidi'
import { soundInputOf, soundInputSchema, withPreset } from './soundInput'
import { bowed, joined, plucked, silence, tone } from './tones.testing'

const rate = 44_100
const guitar = soundInputOf('a', 'A guitar', 'guitar')
/** Sound of the tests is made at the rate that is listened at: taken for twice that, it is an octave higher. */
const heardRate = 22_050

function heard(sound: Float32Array, { input = guitar, deviceRate = heardRate, piece = 128 } = {}) {
  const ear = new Ear(deviceRate, input)
  const messages: FollowedMessage[] = []
  const pictures: EarPicture[] = []
  for (let at = 0; at < sound.length; at += piece) {
    messages.push(...ear.push(sound.subarray(at, at + piece)))
    if (Math.floor(at / 1024) !== Math.floor((at + piece) / 1024)) pictures.push(ear.picture())
  }
  messages.push(...ear.end())
  return { messages, pictures, problem: pictures.at(-1)!.problem }
}
const keys = (messages: readonly FollowedMessage[]) =>
  messages.flatMap(({ bytes }) => (bytes[0] === 0x90 ? [bytes[1]] : []))

describe('an input that is listened to', () => {
  const line = joined([silence(0.2), plucked(57, 0.5), plucked(60, 0.5), plucked(64, 0.6)])

  test('sends notes, in whatever pieces the sound comes', () => {
    const { messages } = heard(line)
    expect(keys(messages)).toEqual([57, 60, 64])
    expect(heard(line, { piece: 997 }).messages).toEqual(messages)
  })

  test('at any rate of the device the same keys are heard', () => {
    for (const deviceRate of [16_000, 44_100, 48_000, 96_000]) {
      const sounds = [57, 62].map(
        (key) =>
          tone(440 * 2 ** ((key - 69) / 12), 0.5, deviceRate, { harmonics: [1, 0.5, 0.3], dieSeconds: 3 })
            .samples,
      )
      expect(keys(heard(joined(sounds), { deviceRate }).messages)).toEqual([57, 62])
    }
  })

  test('pictures tell the level, what was heard, and the tone when a tuner is looked at', () => {
    const ear = new Ear(rate, guitar)
    ear.isTuning = true
    const { samples } = tone(442, 1, rate, { harmonics: [0.5, 0.2] })
    ear.push(samples)
    const picture = ear.picture()
    const peak = samples.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
    expect(picture.peakDb).toBeCloseTo(20 * Math.log10(peak), 3)
    expect(picture.heardMs).toBeCloseTo(1000, 6)
    expect(picture.frames.length).toBeGreaterThan(95)
    expect(picture.frames.at(-1)!.key).toBe(69)
    expect((picture.tuned!.place - 69) * 100).toBeCloseTo(7.85, 0)
    ear.isTuning = false
    const next = ear.picture()
    expect([next.peakDb, next.frames, next.tuned]).toEqual([-120, [], null])
  })

  test('what is wrong is said: silent, weak, cut off, hum, noise; nothing of a line that is well played', () => {
    const long = joined([line, line, line, line])
    const hum = Float32Array.from(
      { length: rate * 3 },
      (_, i) =>
        0.02 * Math.sin((i * 2 * Math.PI * 50) / heardRate) +
        0.01 * Math.sin((i * 2 * Math.PI * 150) / heardRate),
    )
    let state = 1
    const noise = Float32Array.from({ length: rate * 3 }, () => {
      state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
      return (state / 2 ** 31 - 1) * 0.2
    })
    const peak = long.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
    expect(heard(new Float32Array(rate * 3)).problem).toBe('silent')
    expect(heard(long.map((sample) => (sample * 0.4) / peak)).problem).toBeNull()
    expect(heard(long.map((sample) => (sample * 0.008) / peak)).problem).toBe('weak')
    expect(heard(long.map((sample) => Math.max(-1, Math.min(1, (sample * 8) / peak)))).problem).toBe(
      'clipped',
    )
    expect(heard(hum).problem).toBe('hums')
    expect(heard(noise).problem).toBe('noise')
    // A voice that slides and sways is no speech.
    const sung = bowed((seconds) => [60, 62, 64, 62][Math.floor(seconds * 1.5) % 4]!, 6)
    expect(
      heard(
        sung.map((sample) => sample * 0.3),
        { input: withPreset(guitar, 'voice') },
      ).problem,
    ).toBeNull()
  })

  test('somebody who speaks is told from somebody who sings', () => {
    const file = join(mkdtempSync(join(tmpdir(), 'speech-')), 'speech.wav')
    execFileSync('espeak-ng', [
      '-w',
      file,
      'Before the evening tide the lanterns are lit along the harbour wall, and everybody comes down to the quay, where the boats are waiting to be called.',
    ])
    const { channels, sampleRate } = readWav(readFileSync(file))
    const quieter = channels[0]!.map((sample) => sample * 0.4)
    expect(heard(quieter, { deviceRate: sampleRate, input: withPreset(guitar, 'voice') }).problem).toBe(
      'speech',
    )
  })

  test('every preset can be stored, and keeps the concert pitch that was chosen', () => {
    for (const preset of ['any', 'voice', 'guitar', 'bass', 'wind', 'string'] as const) {
      const input = withPreset({ ...guitar, concertHz: 415 }, preset)
      expect(soundInputSchema.parse(input)).toEqual(input)
      expect(input.concertHz).toBe(415)
    }
    expect(soundInputSchema.safeParse({ ...guitar, lowKey: 70, highKey: 60 }).success).toBe(false)
  })
})
