import fc from 'fast-check'
import { resample } from '../sound/resample'
import { frequencyOfKey, listenerSettingsOf, listeningRate } from './listenerSettings'
import { readChords } from './readChords'
import { readSound } from './readSound'
import { isCutOff } from './soundRemarks'
import { bowed, joined, plucked, silence, tone } from './tones.testing'

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

describe('a line', () => {
  test('a key that is plucked three times is three notes, at their moments', () => {
    const { notes } = read(joined([silence(0.3), plucked(57, 0.4), plucked(57, 0.4), plucked(57, 0.6)]))
    expect(notes.map(({ key }) => key)).toEqual([57, 57, 57])
    for (const [index, { onsetMs }] of notes.entries())
      expect(Math.abs(onsetMs - (300 + 400 * index))).toBeLessThan(30)
  })

  test('vibrato of half a semitone is one note', () => {
    const { samples } = tone(440, 2, listeningRate, { harmonics: [1, 0.5, 0.3], vibratoCents: 50 })
    expect(read(joined([silence(0.2), samples])).notes.map(({ key }) => key)).toEqual([69])
  })

  test('a slide over a fifth begins and ends on the right keys, with little between', () => {
    const samples = bowed((seconds) => 57 + 7 * Math.max(0, Math.min(1, (seconds - 0.8) / 0.25)), 2)
    const { notes } = read(joined([silence(0.2), samples]))
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
          const sound = joined([
            ...parts.flatMap(({ key, seconds, gap, noiseDb }) => [
              tone(frequencyOfKey(key, 440), seconds, listeningRate, { harmonics: [1, 0.4], noiseDb })
                .samples,
              silence(gap),
            ]),
            silence(0.05),
          ])
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

  test('one short note in a minute of silence is heard', () => {
    const { notes, problems } = read(joined([silence(40), plucked(57, 0.3), silence(20)]))
    expect({ keys: notes.map(({ key }) => key), problems }).toEqual({ keys: [57], problems: [] })
    expect(Math.abs(notes[0]!.onsetMs - 40_000)).toBeLessThan(30)
  })

  test('what is cut off at the top is told, as it came and at another rate; a full tone is not', () => {
    const wave = (hz: number, size: number) =>
      Float32Array.from(
        { length: 44_100 },
        (_, index) => size * Math.sin((2 * Math.PI * hz * index) / 44_100),
      )
    const cut = (sound: Float32Array) => sound.map((sample) => Math.max(-1, Math.min(1, sample)))
    const sixteenBits = (sound: Float32Array) => sound.map((sample) => Math.round(sample * 32_767) / 32_768)
    for (const hz of [45, 110, 440, 1760]) {
      expect([hz, isCutOff(sixteenBits(wave(hz, 1)))]).toEqual([hz, false])
      expect([hz, isCutOff(sixteenBits(cut(wave(hz, 3))))]).toEqual([hz, true])
      expect([hz, isCutOff(resample(cut(wave(hz, 3)), 44_100, 22_050))]).toEqual([hz, true])
    }
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
