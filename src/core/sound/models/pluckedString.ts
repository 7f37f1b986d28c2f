import { fadedOut, frequencyHzOf, noiseFrom, type PlayedTone } from './playedTone'

/** The finger lets the string go; this long it still rings. */
const ringSeconds = 0.12
/** Where it is plucked, as a part of its length. */
const pluckedAt = 0.17

/**
 * A string that is plucked: a delay line with a loss at each turn, excited by a burst of noise through a comb (where it is plucked) and a
 * low-pass (how hard); it is damped when it is let go.
 *
 * Source: D. A. Jaffe and J. O. Smith, "Extensions of the Karplus-Strong Plucked-String Algorithm", Computer Music Journal 7(2), 1983.
 *
 * @returns one channel at `sampleRate`, at most 1 either way
 */
export function pluckedString(tone: PlayedTone, sampleRate: number): Float32Array {
  const frequencyHz = frequencyHzOf(tone)
  const force = tone.velocity / 127
  const out = new Float32Array(Math.ceil((tone.seconds + ringSeconds) * sampleRate))
  const period = sampleRate / frequencyHz
  // The low-pass of the loop is half a sample late; the rest is between samples.
  const whole = Math.floor(period - 0.5 - 0.1)
  const between = period - 0.5 - whole
  const tuning = (1 - between) / (1 + between)
  const line = excitation(tone, whole, force)
  const rings = 10 ** (-3 / (frequencyHz * ringTime(frequencyHz)))
  const damped = 10 ** (-3 / (frequencyHz * 0.09))
  const letGo = Math.round(tone.seconds * sampleRate)
  let at = 0
  let before = 0
  let allpassIn = 0
  let allpassOut = 0
  for (let sample = 0; sample < out.length; sample++) {
    const now = line[at]!
    out[sample] = now * 0.55
    const loss = sample < letGo ? rings : damped
    const turned = loss * 0.5 * (now + before)
    before = now
    // A first-order all-pass for the part of the period between samples.
    allpassOut = tuning * turned + allpassIn - tuning * allpassOut
    allpassIn = turned
    line[at] = allpassOut
    at = (at + 1) % whole
  }
  return fadedOut(out, sampleRate)
}

/** Seconds until a string has fallen by sixty decibels: short strings die sooner. */
const ringTime = (frequencyHz: number) => 5 * (110 / frequencyHz) ** 0.4

function excitation(tone: PlayedTone, length: number, force: number): Float32Array {
  const noise = noiseFrom(tone.seed)
  const burst = new Float32Array(length)
  const soft = 0.75 - 0.6 * force
  let smooth = 0
  for (let index = 0; index < length; index++) {
    smooth = (1 - soft) * noise() + soft * smooth
    burst[index] = smooth
  }
  const pluck = Math.max(1, Math.round(length * pluckedAt))
  const combed = burst.map((value, index) => value - burst[(index - pluck + length) % length]!)
  const mean = combed.reduce((sum, value) => sum + value, 0) / length
  const peak = combed.reduce((most, value) => Math.max(most, Math.abs(value - mean)), 1e-9)
  return combed.map((value) => ((value - mean) / peak) * (0.15 + 0.85 * force * force))
}
