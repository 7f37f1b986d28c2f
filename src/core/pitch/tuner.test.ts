import { frequencyOfKey, listeningRate } from './listenerSettings'
import { nearestString, stringTunings } from './stringTunings'
import { tone } from './tones.testing'
import { Tuner } from './tuner'

const heard = (frequencyHz: number, options: Parameters<typeof tone>[3], concertHz = 440) => {
  const { samples } = tone(frequencyHz, 0.4, listeningRate, options)
  return new Tuner(concertHz).hear(samples)
}

describe('a tuner', () => {
  test('every open string of every instrument, in and out of tune, is told to a cent', () => {
    const strings = new Set(stringTunings.flatMap(({ strings }) => [...strings]))
    for (const key of strings)
      for (const offCents of [-31, 4]) {
        const frequencyHz = frequencyOfKey(key + offCents / 100, 440)
        const tuned = heard(frequencyHz, { harmonics: [1, 0.7, 0.5, 0.3, 0.2] })
        expect([key, Math.abs((tuned!.place - key) * 100 - offCents) < 1]).toEqual([key, true])
        expect(tuned!.frequencyHz).toBeCloseTo(frequencyHz, 0)
      }
  })

  test('concert pitch moves the scale', () => {
    const tuned = heard(442, { harmonics: [1, 0.5] }, 442)
    expect(tuned!.place).toBeCloseTo(69, 2)
  })

  test('silence and noise are no tone', () => {
    const tuner = new Tuner(440)
    expect(tuner.hear(new Float32Array(listeningRate))).toBeNull()
    let state = 1
    const noise = Float32Array.from({ length: 5000 }, () => {
      state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
      return state / 2 ** 31 - 1
    })
    expect(tuner.hear(noise)).toBeNull()
  })

  test('the next string is told by itself, not by the one before', () => {
    const tuner = new Tuner(440)
    const { samples: low } = tone(frequencyOfKey(45, 440), 0.4, listeningRate, { harmonics: [1, 0.5] })
    const { samples: high } = tone(frequencyOfKey(50, 440), 0.4, listeningRate, { harmonics: [1, 0.5] })
    expect(tuner.hear(low)!.place).toBeCloseTo(45, 1)
    expect(tuner.hear(high)!.place).toBeCloseTo(50, 1)
  })

  test('what is played is aimed at the nearest string', () => {
    expect(nearestString([40, 45, 50, 55, 59, 64], 47.4)).toBe(45)
    expect(nearestString([40, 45, 50, 55, 59, 64], 47.6)).toBe(50)
  })
})
