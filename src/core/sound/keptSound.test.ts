import fc from 'fast-check'
import { type KeptOutline, type KeptStretch, peaksOf, SoundAssembly } from './keptSound'

const sampleRate = 1000

function piece(streamId: string, firstSample: number, startMs: number, samples: Float32Array) {
  const outline: KeptOutline = {
    streamId,
    portId: 'sound:a',
    startMs,
    sampleRate,
    sampleCount: samples.length,
    firstSample,
    byteLength: 0,
    peaks: peaksOf(samples, sampleRate),
    places: new Int16Array(0),
    confidences: new Uint8Array(0),
  }
  return { outline, samples }
}

function assembled(pieces: readonly ReturnType<typeof piece>[], stretch: KeptStretch): Float32Array {
  const assembly = new SoundAssembly(stretch, sampleRate)
  for (const { outline, samples } of pieces) assembly.add(outline, samples)
  return assembly.samples
}

describe('kept sound', () => {
  test('pieces of a stream make the sound they were cut from, however their clock trembles', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 50 }), fc.double({ min: -4, max: 4, noNaN: true })), {
          minLength: 1,
          maxLength: 20,
        }),
        (cuts) => {
          const whole = Float32Array.from(
            { length: cuts.reduce((sum, [length]) => sum + length, 0) },
            (_, i) => (i % 97) / 97,
          )
          let at = 0
          const pieces = cuts.map(([length, trembleMs], index) => {
            const made = piece(
              'one',
              at,
              5000 + at + (index === 0 ? 0 : trembleMs),
              whole.slice(at, at + length),
            )
            at += length
            return made
          })
          expect(assembled(pieces, { fromMs: 5000, toMs: 5000 + whole.length })).toEqual(whole)
        },
      ),
    )
  })

  test('a stretch within begins and ends where it is asked for, and what is not there is silent', () => {
    const ones = piece('one', 0, 100, new Float32Array(50).fill(1))
    const twos = piece('two', 0, 300, new Float32Array(50).fill(0.5))
    const samples = assembled([ones, twos], { fromMs: 120, toMs: 320 })
    expect(samples.length).toBe(200)
    expect(samples[0]).toBe(1)
    expect(samples[29]).toBe(1)
    expect(samples[30]).toBe(0)
    expect(samples[179]).toBe(0)
    expect(samples[180]).toBe(0.5)
    expect(samples[199]).toBe(0.5)
  })

  test('peaks are the highest of each hundredth of a second, either way', () => {
    expect([...peaksOf(Float32Array.of(0, -1, 0, 0, 0, 0, 0, 0, 0, 0, 0.5), 1000)]).toEqual([255, 128])
  })
})
