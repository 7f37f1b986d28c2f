import fc from 'fast-check'
import { WaveFile } from 'wavefile'
import { peakOf, sampleBits, sampleRates, writeWav } from './wav'

/** A second reader of WAV, which shares no code with the writer. */
function readBack(bytes: Uint8Array): { rate: number; bits: string; channels: number[][] } {
  const file = new WaveFile(bytes)
  const format = file.fmt as { sampleRate: number; numChannels: number }
  expect(format.numChannels).toBe(2)
  return {
    rate: format.sampleRate,
    bits: file.bitDepth,
    channels: (file.getSamples(false, Float64Array as never) as unknown as Float64Array[]).map((channel) => [
      ...channel,
    ]),
  }
}

test('any sound comes back to within a step, at any rate, and what is too loud is held at full scale', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.tuple(fc.float({ min: -2, max: 2, noNaN: true }), fc.float({ min: -1, max: 1, noNaN: true })),
      ),
      fc.constantFrom(...sampleRates),
      fc.constantFrom(...sampleBits),
      (samples, rate, bits) => {
        const left = Float32Array.from(samples, ([sample]) => sample)
        const right = Float32Array.from(samples, ([, sample]) => sample)
        const written = writeWav({ left, right }, rate, bits)
        expect(written.length).toBe(44 + samples.length * 2 * (bits / 8))
        if (samples.length === 0) return
        const back = readBack(written)
        expect([back.rate, back.bits]).toEqual([rate, String(bits)])
        const fullScale = 2 ** (bits - 1)
        // Rounding, and with 16 bits a step of dither either way.
        const nearest = bits === 16 ? 1.5 : 0.5
        for (const [channel, sound] of [left, right].entries())
          for (const [frame, sample] of sound.entries()) {
            const held = Math.max(-fullScale, Math.min(fullScale - 1, sample * fullScale))
            expect(Math.abs(back.channels[channel]![frame]! - held)).toBeLessThanOrEqual(nearest + 1e-3)
          }
      },
    ),
  )
})

test('with 16 bits a sound softer than a step is not lost: the mean of its samples is where it was', () => {
  const soft = new Float32Array(100_000).fill(0.3 / 32_768)
  const [left] = readBack(writeWav({ left: soft, right: soft }, 44_100, 16)).channels
  const mean = left!.reduce((sum, sample) => sum + sample, 0) / left!.length
  expect(mean).toBeCloseTo(0.3, 1)
})

test('the peak is that of the louder channel', () => {
  expect(peakOf({ left: Float32Array.of(0.1, -0.2), right: Float32Array.of(-0.7, 0.3) })).toBeCloseTo(0.7)
  expect(peakOf({ left: new Float32Array(0), right: new Float32Array(0) })).toBe(0)
})

test('one channel of whole steps comes back step for step, with nothing added', () => {
  const steps = Int16Array.from({ length: 300 }, (_, index) => ((index * 7919) % 65_536) - 32_768)
  const bytes = writeWav(
    Float32Array.from(steps, (step) => step / 32_768),
    22_050,
    16,
    true,
  )
  const file = new WaveFile(bytes)
  expect((file.fmt as { numChannels: number; sampleRate: number }).numChannels).toBe(1)
  expect([...(file.getSamples(false, Int16Array as never) as unknown as Int16Array)]).toEqual([...steps])
})
