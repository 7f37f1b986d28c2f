import { frequencyOfKey, listenerSettingsOf, listeningRate } from './listenerSettings'
import { PitchWindows, showsOctaveBelow } from './pitchWindows'

const settings = listenerSettingsOf.guitar

/** A tone of six harmonics with, at first, another one that dies away within eight milliseconds. */
function toneAfterAnother(key: number, before: number | null): Float32Array {
  const sound = new Float32Array(1024)
  const wave = (place: number, index: number) => {
    let sum = 0
    for (let harmonic = 1; harmonic <= 6; harmonic++)
      sum +=
        Math.sin((2 * Math.PI * frequencyOfKey(place, 440) * harmonic * index) / listeningRate) / harmonic
    return sum
  }
  const leavingSamples = listeningRate * 0.008
  for (let index = 0; index < sound.length; index++) {
    sound[index] = wave(key, index)
    if (before !== null && index < leavingSamples)
      sound[index]! += (1 - index / leavingSamples) * wave(before, index)
  }
  return sound
}

test('the latest sound is heard through the window that is surest', () => {
  const windows = new PitchWindows(settings)
  for (const key of [50, 57, 61, 64, 72]) {
    const samples = 640
    const heard = windows.hearClearest(toneAfterAnother(key, key + 3), samples, samples)!
    expect(Math.abs(heard.place - key)).toBeLessThan(0.1)
    expect(heard.probability).toBeGreaterThan(0.85)
    expect(showsOctaveBelow(heard.window, heard.frequencyHz)).toBe(true)
  }
})

test('with less sound than the shortest window nothing is heard yet', () => {
  expect(new PitchWindows(settings).hearClearest(toneAfterAnother(60, null), 150, 150)).toBeNull()
})

test('periods that lie between two samples are as clear as those that do not', () => {
  // Of a bright tone a parabola through three samples misses the height of its first period, and not that of its second.
  const windows = new PitchWindows(settings)
  for (const period of [79.5, 90.5, 100.5]) {
    const sound = new Float32Array(512)
    for (let index = 0; index < sound.length; index++)
      for (let harmonic = 1; harmonic < period / 2.2; harmonic++)
        sound[index]! += Math.cos(2 * Math.PI * harmonic * (index / period + harmonic * harmonic * 0.37))
    const heard = windows.hear(sound, 512, 512)
    expect(Math.abs(listeningRate / heard.frequencyHz - period)).toBeLessThan(0.1)
    expect(heard.probability).toBeGreaterThan(0.95)
  }
})

test('silence has no pitch', () => {
  const heard = new PitchWindows(settings).hear(new Float32Array(1024), 1024, 1024)
  expect(heard.place).toBeNaN()
  expect(heard.probability).toBe(0)
})
