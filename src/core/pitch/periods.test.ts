import { frequencyOfKey, listenerSettingsOf, listeningRate } from './listenerSettings'
import { FrameAnalysis } from './soundFrames'
import { type ToneManner, tone } from './tones.testing'

/** E1 to C7, in steps of two keys. */
const keys = Array.from({ length: 35 }, (_, index) => 28 + 2 * index)
const falling = [1, 0.6, 0.45, 0.3, 0.22, 0.16, 0.1, 0.07]

/** How far the likeliest pitch of each frame is from the true one, in cents. */
function errorsOf(manner: ToneManner, heardKeys = keys, offCents = 13): number[] {
  const analysis = new FrameAnalysis({ ...listenerSettingsOf.any, lowKey: 26, highKey: 100 })
  return heardKeys.flatMap((key) => {
    const { samples, frequencyAt } = tone(
      frequencyOfKey(key + offCents / 100, 440),
      0.4,
      listeningRate,
      manner,
    )
    const errors: number[] = []
    for (let ms = 80; ms <= 300; ms += 20) {
      const middle = Math.round((ms * listeningRate) / 1000)
      const { candidates } = analysis.frameAround(samples, middle, ms)
      const best = candidates.reduce((most, each) => (most.probability >= each.probability ? most : each), {
        frequencyHz: Number.NaN,
        probability: 0,
      })
      errors.push(1200 * Math.log2(best.frequencyHz / frequencyAt(middle / listeningRate)))
    }
    return errors
  })
}

const isOctaveError = (cents: number) => !(Math.abs(cents) < 600)

// Tones of known frequency, as P. McLeod and G. Wyvill, "A Smarter Way to Find Pitch", ICMC 2005, and A. de Cheveigné and H. Kawahara,
// "YIN, a fundamental frequency estimator for speech and music", JASA 111 (2002), judge their methods by.
describe('the pitch of tones from E1 to C7', () => {
  const median = (values: readonly number[]) =>
    [...values].map(Math.abs).sort((a, b) => a - b)[values.length >> 1]!
  const nearly = (values: readonly number[]) =>
    [...values].map(Math.abs).sort((a, b) => a - b)[Math.floor(values.length * 0.99)]!

  test.each<[string, ToneManner]>([
    ['with harmonics', { harmonics: falling }],
    ['alone', { harmonics: [1] }],
    ['without their fundamental', { harmonics: [0, 0.6, 0.5, 0.4, 0.3, 0.2] }],
    ['with odd harmonics only', { harmonics: [1, 0, 0.6, 0, 0.4, 0, 0.2] }],
    ['that die away', { harmonics: falling, dieSeconds: 1.2 }],
  ])('%s: within two cents, no octave mistaken', (_, manner) => {
    const errors = errorsOf(manner)
    expect(errors.filter(isOctaveError)).toHaveLength(0)
    expect(nearly(errors)).toBeLessThan(2)
  })

  test('under noise at 30 dB: within two cents, fewer than 0.2 % of octaves mistaken', () => {
    const errors = errorsOf({ harmonics: falling, noiseDb: 30 })
    expect(errors.filter(isOctaveError).length / errors.length).toBeLessThan(0.002)
    expect(median(errors)).toBeLessThan(2)
  })

  test('of stiff strings: within what the stretch itself is worth', () => {
    // A wound guitar string has B near 1e-4 (H. Fletcher, "Normal Vibration Frequencies of a Stiff Piano String", JASA 36, 1964, for the law).
    const errors = errorsOf(
      { harmonics: falling, stiffness: 1e-4, dieSeconds: 2 },
      keys.filter((key) => key <= 76),
    )
    expect(errors.filter(isOctaveError)).toHaveLength(0)
    expect(median(errors)).toBeLessThan(4)
  })

  test('with vibrato of half a semitone: the octave holds, and on average the pitch is where it is', () => {
    const errors = errorsOf(
      { harmonics: falling, vibratoCents: 50 },
      keys.filter((key) => key >= 48),
    )
    expect(errors.filter(isOctaveError)).toHaveLength(0)
    expect(median(errors)).toBeLessThan(8)
  })

  test('over a hum 25 dB below: the octave holds', () => {
    const errors = errorsOf({ harmonics: falling, humDb: 25 })
    expect(errors.filter(isOctaveError).length / errors.length).toBeLessThan(0.002)
  })

  test('noise alone has hardly any pitch', () => {
    const analysis = new FrameAnalysis(listenerSettingsOf.any)
    const { samples } = tone(440, 1, listeningRate, { harmonics: [0.0001], noiseDb: -40 })
    let voiced = 0
    for (let ms = 100; ms < 900; ms += 10)
      for (const { probability } of analysis.frameAround(samples, Math.round(ms * 22.05), ms).candidates)
        voiced += probability / 80
    expect(voiced).toBeLessThan(0.15)
  })
})
