import fc from 'fast-check'
import { WaveFile } from 'wavefile'
import { FileProblem } from '../border/fileProblem'
import { inOneChannel, readWav } from './readWav'
import { Resampler, resample } from './resample'
import { writeWav } from './wav'

describe('WAV files', () => {
  test('of every usual coding come in as another package wrote them', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(
          ['8', 1 / 100] as const,
          ['16', 1e-4] as const,
          ['24', 1e-6] as const,
          ['32', 1e-6] as const,
          ['32f', 1e-6] as const,
          ['64', 1e-6] as const,
        ),
        fc.integer({ min: 1, max: 8 }),
        fc.constantFrom(8000, 22_050, 44_100, 48_000, 96_000),
        fc.array(fc.double({ min: -0.99, max: 0.99, noNaN: true }), { minLength: 1, maxLength: 50 }),
        ([coding, precision], channels, sampleRate, samples) => {
          const wav = new WaveFile()
          const isWhole = !['32f', '64'].includes(coding)
          const scale = coding === '8' ? 127 : isWhole ? 2 ** (Number(coding) - 1) - 1 : 1
          const offset = coding === '8' ? 128 : 0
          const one = Float64Array.from(samples, (sample) =>
            isWhole ? Math.round(sample * scale) + offset : sample,
          )
          wav.fromScratch(channels, sampleRate, coding, channels === 1 ? one : Array(channels).fill(one))
          const read = readWav(wav.toBuffer())
          expect(read.sampleRate).toBe(sampleRate)
          expect(read.channels).toHaveLength(channels)
          for (const channel of [...read.channels, inOneChannel(read)]) {
            expect(channel).toHaveLength(samples.length)
            for (const [index, sample] of samples.entries())
              expect(Math.abs(channel[index]! - sample)).toBeLessThan(precision)
          }
        },
      ),
    )
  })

  test('that this program writes come in again, and what is cut off as far as it goes', () => {
    const left = Float32Array.from({ length: 1000 }, (_, index) => Math.sin(index / 9))
    const bytes = writeWav({ left, right: left }, 48_000, 24)
    expect(readWav(bytes).channels[1]!.slice(0, 1000)).toHaveLength(1000)
    expect(readWav(bytes.slice(0, 44 + 600)).channels[0]).toHaveLength(100)
  })

  test('bytes that are none are refused with a sentence, never otherwise', () => {
    const whole = writeWav({ left: new Float32Array(20), right: new Float32Array(20) }, 44_100, 16)
    fc.assert(
      fc.property(
        fc.oneof(
          fc.uint8Array({ maxLength: 80 }),
          fc
            .tuple(fc.integer({ min: 0, max: 47 }), fc.integer({ min: 0, max: 255 }))
            .map(([at, value]) => Uint8Array.from(whole, (byte, index) => (index === at ? value : byte))),
          fc.integer({ min: 0, max: whole.length }).map((length) => whole.slice(0, length)),
        ),
        (bytes) => {
          try {
            readWav(bytes)
          } catch (error) {
            expect(error).toBeInstanceOf(FileProblem)
          }
        },
      ),
      { numRuns: 500 },
    )
  })
})

describe('another rate', () => {
  test.each([
    [44_100, 22_050],
    [48_000, 22_050],
    [8000, 22_050],
    [96_000, 22_050],
  ])('%i to %i: a tone stays what it is, to a thousandth', (from, to) => {
    const at = (rate: number, seconds: number) =>
      Float32Array.from({ length: rate * seconds }, (_, index) =>
        Math.sin((2 * Math.PI * 1234 * index) / rate),
      )
    const heard = resample(at(from, 0.5), from, to)
    const expected = at(to, 0.5)
    expect(Math.abs(heard.length - expected.length)).toBeLessThanOrEqual(1)
    for (let index = 200; index < expected.length - 200; index++)
      expect(Math.abs(heard[index]! - expected[index]!)).toBeLessThan(2e-3)
  })

  test('above half the new rate nothing is left', () => {
    const high = Float32Array.from({ length: 44_100 }, (_, index) =>
      Math.sin((2 * Math.PI * 14_000 * index) / 44_100),
    )
    for (const sample of resample(high, 44_100, 22_050).slice(100, -100))
      expect(Math.abs(sample)).toBeLessThan(2e-3)
  })

  test('in whatever pieces it comes, the same comes out', () => {
    const sound = Float32Array.from(
      { length: 3000 },
      (_, index) => Math.sin(index / 7) * Math.cos(index / 31),
    )
    const whole = resample(sound, 48_000, 22_050)
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 900 }), { maxLength: 8 }), (lengths) => {
        const resampler = new Resampler(48_000, 22_050)
        const out: number[] = []
        let from = 0
        for (const length of [...lengths, 3000]) {
          out.push(...resampler.push(sound.slice(from, from + length)))
          from = Math.min(3000, from + length)
        }
        out.push(...resampler.end())
        expect(out).toHaveLength(whole.length)
        for (const [index, sample] of out.entries())
          expect(Math.abs(sample - whole[index]!)).toBeLessThan(1e-6)
      }),
      { numRuns: 30 },
    )
  })
})
