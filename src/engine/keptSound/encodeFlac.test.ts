import { FLACDecoder } from '@wasm-audio-decoders/flac'
import fc from 'fast-check'
import { encodeFlac, encoderReady } from './encodeFlac'

/** As a reader that is not this program's has it (libFLAC, compiled by others). */
async function decoded(bytes: Uint8Array) {
  const decoder = new FLACDecoder()
  await decoder.ready
  const { channelData, sampleRate } = await decoder.decodeFile(bytes)
  decoder.free()
  return { samples: channelData[0]!, sampleRate }
}

describe('sound that is kept', () => {
  beforeAll(encoderReady)

  test('comes back to within half a step of sixteen bits, whatever it is', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 1, maxLength: 3000 }),
        fc.constantFrom(8_000, 22_050, 44_100, 48_000, 96_000),
        async (values, sampleRate) => {
          // This reader loses the last frame where a byte of 255 stands before its checksum; browsers do not.
          const sound = Float32Array.from([...values, 0])
          const back = await decoded(encodeFlac(sound, sampleRate))
          expect(back.sampleRate).toBe(sampleRate)
          expect(back.samples.length).toBe(sound.length)
          for (const [index, sample] of sound.entries())
            expect(Math.abs(back.samples[index]! - sample)).toBeLessThan(1 / 32_000)
        },
      ),
      { numRuns: 60 },
    )
  })

  test('a played tone takes less than half of what it has as it is', () => {
    const tone = Float32Array.from(
      { length: 48_000 },
      (_, index) => 0.3 * Math.sin(index * 0.03) * Math.exp(-index / 30_000),
    )
    expect(encodeFlac(tone, 48_000).byteLength).toBeLessThan(48_000)
  })

  test('what is too loud is cut off, not turned over', async () => {
    const { samples } = await decoded(encodeFlac(Float32Array.of(1.7, -1.7, 0), 48_000))
    expect(samples[0]).toBeGreaterThan(0.99)
    expect(samples[1]).toBeLessThan(-0.99)
  })
})
