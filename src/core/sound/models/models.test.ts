import fc from 'fast-check'
import { blownPipe } from './blownPipe'
import type { PlayedTone } from './playedTone'
import { pluckedString } from './pluckedString'
import { sungVowel } from './sungVowel'

const models = { pluckedString, blownPipe, sungVowel }

/** How much of a frequency there is in a stretch of sound (Goertzel, without a window). */
function strengthOf(samples: Float32Array, frequencyHz: number, sampleRate: number): number {
  let real = 0
  let imaginary = 0
  for (const [index, sample] of samples.entries()) {
    const angle = (2 * Math.PI * frequencyHz * index) / sampleRate
    real += sample * Math.cos(angle)
    imaginary -= sample * Math.sin(angle)
  }
  return Math.hypot(real, imaginary) / samples.length
}

/** Where the fundamental is strongest around a frequency, in cents from it. */
function centsOff(samples: Float32Array, frequencyHz: number, sampleRate: number): number {
  let best = 0
  let most = 0
  for (let cents = -20; cents <= 40; cents += 4) {
    const strength = strengthOf(samples, frequencyHz * 2 ** (cents / 1200), sampleRate)
    if (strength > most) [best, most] = [cents, strength]
  }
  return best
}

describe.each(Object.entries(models))('%s', (_name, model) => {
  test('sounds at the pitch that is asked for, at any rate', () => {
    for (const sampleRate of [44_100, 48_000])
      for (const key of [45, 69]) {
        const sound = model({ key, offCents: 12, seconds: 1, velocity: 90, seed: key }, sampleRate)
        const steady = sound.subarray(sampleRate * 0.35, sampleRate * 0.75)
        const off = centsOff(steady, 440 * 2 ** ((key - 69) / 12), sampleRate)
        expect(Math.abs(off - 12)).toBeLessThanOrEqual(4)
      }
  })

  test('is within full scale, ends in silence, and is the same for a seed, for any note', () => {
    fc.assert(
      fc.property(
        fc.record({
          key: fc.integer({ min: 36, max: 88 }),
          offCents: fc.double({ min: -20, max: 20, noNaN: true }),
          seconds: fc.double({ min: 0.03, max: 0.6, noNaN: true }),
          velocity: fc.integer({ min: 1, max: 127 }),
          seed: fc.integer({ min: 0, max: 1e6 }),
        }),
        (tone: PlayedTone) => {
          const sound = model(tone, 22_050)
          expect(sound.length / 22_050).toBeGreaterThan(tone.seconds)
          expect(sound.every((sample) => Math.abs(sample) <= 1)).toBe(true)
          const loudest = sound.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
          const last = sound.subarray(-22).reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
          expect(last).toBeLessThan(0.3 * loudest + 1e-6)
          expect(model(tone, 22_050)).toEqual(sound)
        },
      ),
      { numRuns: 8 },
    )
  })

  test('is louder when it is played harder', () => {
    const loudest = (velocity: number) =>
      model({ key: 60, offCents: 0, seconds: 0.5, velocity, seed: 3 }, 22_050).reduce(
        (most, sample) => Math.max(most, Math.abs(sample)),
        0,
      )
    expect(loudest(40)).toBeLessThan(loudest(80))
    expect(loudest(80)).toBeLessThan(loudest(120))
  })
})
