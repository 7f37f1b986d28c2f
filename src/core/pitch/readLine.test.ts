import fc from 'fast-check'
import { frequencyOfKey, listenerSettingsOf, listeningRate } from './listenerSettings'
import { readChords } from './readChords'
import { readSound } from './readSound'

import { tone } from './tones.testing'

function read(samples: Float32Array) {
  const reading = readSound({ sampleRate: listeningRate, channels: [samples] }, listenerSettingsOf.any, null)
  let step = reading.next()
  while (!step.done) {
    expect(step.value).toBeGreaterThanOrEqual(0)
    expect(step.value).toBeLessThanOrEqual(1)
    step = reading.next()
  }
  return step.value
}

const joined = (...parts: readonly Float32Array[]) => {
  const all = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    all.set(part, at)
    at += part.length
  }
  return all
}
const silence = (seconds: number) => new Float32Array(Math.round(seconds * listeningRate))
const plucked = (key: number, seconds: number) =>
  tone(frequencyOfKey(key, 440), seconds, listeningRate, {
    harmonics: [1, 0.5, 0.4, 0.2, 0.1],
    dieSeconds: 1.5,
  }).samples

describe('a line', () => {
  test('a key that is plucked three times is three notes, at their moments', () => {
    const { notes } = read(joined(silence(0.3), plucked(57, 0.4), plucked(57, 0.4), plucked(57, 0.6)))
    expect(notes.map(({ key }) => key)).toEqual([57, 57, 57])
    for (const [index, { onsetMs }] of notes.entries())
      expect(Math.abs(onsetMs - (300 + 400 * index))).toBeLessThan(30)
  })

  test('vibrato of half a semitone is one note', () => {
    const { samples } = tone(440, 2, listeningRate, { harmonics: [1, 0.5, 0.3], vibratoCents: 50 })
    expect(read(joined(silence(0.2), samples)).notes.map(({ key }) => key)).toEqual([69])
  })

  test('a slide over a fifth begins and ends on the right keys, with little between', () => {
    let cycles = 0
    const samples = Float32Array.from({ length: listeningRate * 2 }, (_, index) => {
      const at = index / listeningRate
      const key = 57 + 7 * Math.max(0, Math.min(1, (at - 0.8) / 0.25))
      cycles += frequencyOfKey(key, 440) / listeningRate
      return 0.2 * (Math.sin(2 * Math.PI * cycles) + 0.4 * Math.sin(4 * Math.PI * cycles))
    })
    const { notes } = read(joined(silence(0.2), samples))
    expect(notes[0]!.key).toBe(57)
    expect(notes.at(-1)!.key).toBe(64)
    expect(notes.length).toBeLessThanOrEqual(4)
  })

  test('of any sound: notes lie within it, one after the other, and are sure to some degree', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            key: fc.integer({ min: 30, max: 95 }),
            seconds: fc.double({ min: 0.01, max: 0.3, noNaN: true }),
            gap: fc.double({ min: 0, max: 0.1, noNaN: true }),
            noiseDb: fc.integer({ min: -10, max: 60 }),
          }),
          { maxLength: 6 },
        ),
        (parts) => {
          const sound = joined(
            ...parts.flatMap(({ key, seconds, gap, noiseDb }) => [
              tone(frequencyOfKey(key, 440), seconds, listeningRate, { harmonics: [1, 0.4], noiseDb })
                .samples,
              silence(gap),
            ]),
            silence(0.05),
          )
          const { notes, seconds } = read(sound)
          let before = -1
          for (const { onsetMs, durationMs, velocity, confidence } of notes) {
            expect(onsetMs).toBeGreaterThanOrEqual(Math.max(0, before))
            expect(onsetMs).toBeLessThanOrEqual(seconds * 1000)
            expect(durationMs).toBeGreaterThan(0)
            expect(velocity).toBeGreaterThanOrEqual(1)
            expect(velocity).toBeLessThanOrEqual(127)
            expect(confidence).toBeGreaterThanOrEqual(0)
            expect(confidence).toBeLessThanOrEqual(1)
            before = onsetMs
          }
        },
      ),
      { numRuns: 12 },
    )
  })

  test('nothing at all', () => {
    expect(read(new Float32Array(0))).toMatchObject({ notes: [], problems: ['silent'] })
    expect(read(silence(1))).toMatchObject({ notes: [], problems: ['silent'] })
  })
})

describe('chords', () => {
  test('of any network: notes lie within it, and are told apart by key and moment', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 40 }), fc.integer(), (frames, seed) => {
        let state = seed
        const some = () => {
          state = (Math.imul(state, 1_664_525) + 1_013_904_223) | 0
          return (state >>> 8) / 2 ** 24
        }
        const sounding = Float32Array.from({ length: frames * 88 }, () => some() ** 2)
        const beginning = Float32Array.from({ length: frames * 88 }, () => some() ** 3)
        const notes = readChords({ frames, sounding, beginning })
        expect(new Set(notes.map(({ key, onsetMs }) => `${key} ${onsetMs}`)).size).toBe(notes.length)
        for (const { onsetMs, durationMs, key } of notes) {
          expect(key).toBeGreaterThanOrEqual(21)
          expect(key).toBeLessThanOrEqual(108)
          expect(onsetMs).toBeGreaterThanOrEqual(0)
          expect(onsetMs + durationMs).toBeLessThanOrEqual(frames * 11.62)
        }
      }),
      { numRuns: 40 },
    )
  })
})
