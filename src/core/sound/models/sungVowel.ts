import { frequencyHzOf, noiseFrom, type PlayedTone } from './playedTone'

/** Formants of an open vowel, "a", sung by a deep voice: frequency, bandwidth, and gain in decibels. */
const formants = [
  [650, 80, 0],
  [1080, 90, -6],
  [2650, 120, -7],
  [2900, 130, -8],
  [3250, 140, -22],
] as const

const attackSeconds = 0.07
const releaseSeconds = 0.09
/** A singer comes to a note from beneath. */
const scoopCents = 70
const scoopSeconds = 0.06
const vibratoHz = 5.4
const vibratoCents = 28
const vibratoAfterSeconds = 0.3

/**
 * A vowel that is sung: pulses of the glottis through the resonances of the throat, with a scoop, vibrato, breath and the unsteadiness of
 * a voice.
 *
 * Sources: A. E. Rosenberg, "Effect of Glottal Pulse Shape on the Quality of Natural Vowels", JASA 49, 1971 (the pulse); the resonators of
 * D. H. Klatt, "Software for a cascade/parallel formant synthesizer", JASA 67(3), 1980; formants as in tables of the singing voice.
 *
 * @returns one channel at `sampleRate`, at most about 1 either way
 */
export function sungVowel(tone: PlayedTone, sampleRate: number): Float32Array {
  const frequencyHz = frequencyHzOf(tone)
  const force = tone.velocity / 127
  const noise = noiseFrom(tone.seed)
  const length = Math.ceil((tone.seconds + releaseSeconds) * sampleRate)
  const source = new Float32Array(length)
  let phase = 0
  let wander = 0
  let pulseBefore = 0
  for (let sample = 0; sample < length; sample++) {
    const seconds = sample / sampleRate
    wander = 0.9995 * wander + 0.0005 * noise() * 60
    const scoop = -scoopCents * Math.exp(-seconds / scoopSeconds)
    const isSwaying = Math.min(1, Math.max(0, (seconds - vibratoAfterSeconds) / 0.3))
    const vibrato = isSwaying * vibratoCents * Math.sin(2 * Math.PI * vibratoHz * seconds)
    const hz = frequencyHz * 2 ** ((scoop + vibrato + wander) / 1200)
    phase = (phase + hz / sampleRate) % 1
    const pulse = glottis(phase)
    const begun = 0.5 - 0.5 * Math.cos(Math.PI * Math.min(1, seconds / attackSeconds))
    const ended = Math.max(0, Math.min(1, (tone.seconds + releaseSeconds - seconds) / releaseSeconds))
    // What is heard outside is the change of the flow.
    source[sample] = (pulse - pulseBefore + 0.0015 * noise()) * begun * ended
    pulseBefore = pulse
  }
  const out = new Float32Array(length)
  for (const [centreHz, bandwidthHz, gainDb] of formants)
    resonate(source, out, centreHz, bandwidthHz, 10 ** (gainDb / 20), sampleRate)
  const peak = out.reduce((most, value) => Math.max(most, Math.abs(value)), 1e-9)
  return out.map((value) => (value / peak) * (0.1 + 0.42 * force))
}

/** The flow through the glottis: opening, closing, closed. */
function glottis(phase: number): number {
  if (phase < 0.4) return 0.5 - 0.5 * Math.cos((Math.PI * phase) / 0.4)
  if (phase < 0.56) return Math.cos(((phase - 0.4) / 0.16) * (Math.PI / 2))
  return 0
}

function resonate(
  source: Float32Array,
  out: Float32Array,
  centreHz: number,
  bandwidthHz: number,
  gain: number,
  sampleRate: number,
): void {
  const radius = Math.exp((-Math.PI * bandwidthHz) / sampleRate)
  const b = 2 * radius * Math.cos((2 * Math.PI * centreHz) / sampleRate)
  const c = -radius * radius
  const a = 1 - b - c
  let one = 0
  let two = 0
  for (let sample = 0; sample < source.length; sample++) {
    const now = a * source[sample]! + b * one + c * two
    two = one
    one = now
    out[sample]! += gain * now
  }
}
