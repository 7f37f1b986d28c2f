import { harmonicMotion, motionStepMs } from './harmonicMotion'
import { listeningRate } from './listenerSettings'
import { tone } from './tones.testing'

const harmonics = [1, 0.6, 0.5, 0.3, 0.2]

/** The largest of each between two moments. */
function most(samples: Float32Array, frequencyHz: number, fromMs: number, toMs: number) {
  const { partingHz, unlikeDb } = harmonicMotion(samples, fromMs, toMs, frequencyHz)
  return { partingHz: Math.max(...partingHz), unlikeDb: Math.max(...unlikeDb) }
}

describe('motion of harmonics against each other', () => {
  test.each([82.4, 220, 880])('a tone of %d Hz, with vibrato and swells, has next to none', (frequencyHz) => {
    const steady = tone(frequencyHz, 1, listeningRate, { harmonics }).samples
    expect(most(steady, frequencyHz, 200, 800).partingHz).toBeLessThan(0.5)
    const { samples } = tone(frequencyHz, 1, listeningRate, { harmonics, vibratoCents: 25 })
    const swelled = samples.map(
      (sample, index) => sample * (1 + 0.5 * Math.sin((2 * Math.PI * 5 * index) / listeningRate)),
    )
    const { partingHz, unlikeDb } = most(swelled, frequencyHz, 200, 800)
    expect(partingHz).toBeLessThan(2)
    expect(unlikeDb).toBeLessThan(2)
  })

  test.each([82.4, 220, 880])(
    'a tone of %d Hz that begins while itself rings moves much, then',
    (frequencyHz) => {
      const { samples } = tone(frequencyHz, 1, listeningRate, { harmonics })
      // It begins at half a second, within a hundredth of it, at phases of its own; the one before rings for a twentieth.
      const sound = samples.map((sample, index) => {
        const since = index / listeningRate - 0.5
        const phase = harmonics.reduce(
          (sum, strength, order) =>
            sum +
            strength *
              Math.sin(
                2 * Math.PI * (frequencyHz * (order + 1) * (index / listeningRate) + 0.3 * (order + 1) ** 2),
              ),
          0,
        )
        const rings = Math.max(0, Math.min(1, 1 - since / 0.05))
        return sample * rings + 0.12 * phase * Math.max(0, Math.min(1, since / 0.01))
      })
      const { fromMs, partingHz } = harmonicMotion(sound, 200, 800, frequencyHz)
      const atMs = fromMs + partingHz.indexOf(Math.max(...partingHz)) * motionStepMs
      expect(Math.max(...partingHz)).toBeGreaterThan(4)
      expect(Math.abs(atMs - 515)).toBeLessThan(35)
    },
  )

  test('of nothing, of one moment and beyond the sound', () => {
    expect(harmonicMotion(new Float32Array(0), 0, 20, 440).partingHz).toEqual(new Float32Array(5))
    expect(harmonicMotion(new Float32Array(100), 50, 50, 440).unlikeDb).toEqual(new Float32Array(1))
    expect(harmonicMotion(new Float32Array(100), 50, 40, 12_000).unlikeDb).toEqual(new Float32Array(0))
  })
})
