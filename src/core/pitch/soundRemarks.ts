import { listeningRate } from './listenerSettings'
import { likeliestOf } from './periods'
import { loudestDb, type SoundFrame } from './soundFrames'
import { PowerSpectrum } from './spectrum'

/** What is wrong with a sound that is to become notes. */
export const soundProblems = ['silent', 'weak', 'clipped', 'hums', 'noise', 'speech'] as const
export type SoundProblem = (typeof soundProblems)[number]

/**
 * What is wrong, in the order in which it matters most; empty when nothing is.
 *
 * @param samples at `listeningRate`
 * @param frames what was heard in them
 */
export function problemsOfSound(
  samples: Float32Array,
  frames: readonly Omit<SoundFrame, 'timeMs'>[],
): SoundProblem[] {
  const loud = loudestDb(frames.map(({ levelDb }) => levelDb))
  const problems: SoundProblem[] = []
  const voiced = frames.filter(({ clarity, levelDb }) => clarity > 0.8 && levelDb > loud - 30).length
  const sounding = frames.filter(({ levelDb }) => levelDb > loud - 30).length
  const isNoise = voiced < sounding * 0.15
  if (isNoise) problems.push('noise')
  else if (isSpeech(frames, loud)) problems.push('speech')
  if (hums(samples, frames, loud)) problems.push('hums')
  return problems
}

/**
 * Whether a sound is cut off at the top, one channel as it came: the very same value several times in a row at full height, which no tone
 * has (the top of a sine of 40 Hz differs from its neighbours by a step of sixteen bits). Once it was brought to another rate or coded with loss,
 * what was flat swings beyond full scale instead.
 */
export function isCutOff(samples: Float32Array): boolean {
  const cutOff = new CutOff()
  cutOff.push(samples)
  return cutOff.isHeard
}

/** The same of a sound that comes in pieces. */
export class CutOff {
  private flat = 0
  private beyond = 0
  private inRow = 1
  private before = 0

  push(samples: Float32Array): void {
    for (const sample of samples) {
      const size = Math.abs(sample)
      this.inRow = size > fullHeight && sample === this.before ? this.inRow + 1 : 1
      if (this.inRow === flatSamples) this.flat++
      if (size > 1.0001) this.beyond++
      this.before = sample
    }
  }

  get isHeard(): boolean {
    return this.flat >= leastTimes || this.beyond >= leastTimes * 4
  }

  forget(): void {
    this.flat = 0
    this.beyond = 0
  }
}
const fullHeight = 0.9
const flatSamples = 5
const leastTimes = 5

/** About a period of vibrato, in frames: what only sways is where it was. */
const swayFrames = 18

/**
 * Where somebody speaks, there is no pitch half the time, and what there is moves by any distance: notes that are played or sung move by
 * semitones or not at all.
 */
function isSpeech(frames: readonly Omit<SoundFrame, 'timeMs'>[], loud: number): boolean {
  const pitches: (number | null)[] = []
  let sounding = 0
  for (const { candidates, clarity, levelDb } of frames) {
    if (levelDb > loud - 30) sounding++
    const best = likeliestOf(candidates)
    const isClear = best !== null && clarity >= 0.7 && levelDb > loud - 30 && best.frequencyHz < 600
    pitches.push(isClear ? 1200 * Math.log2(best.frequencyHz) : null)
  }
  const off: number[] = []
  for (let frame = 0; frame + swayFrames < pitches.length; frame++) {
    const [from, to] = [pitches[frame], pitches[frame + swayFrames]]
    if (from == null || to == null) continue
    const moved = to - from
    off.push(Math.abs(moved - Math.round(moved / 100) * 100))
  }
  if (off.length < 40) return false
  off.sort((a, b) => a - b)
  const voiced = pitches.filter((pitch) => pitch !== null).length
  return off[off.length >> 1]! > 17 && voiced < sounding * 0.88
}

/** A steady tone of the mains while nobody plays: 50 or 60 hertz and what is above them stand out of the quietest moments. */
function hums(samples: Float32Array, frames: readonly Pick<SoundFrame, 'levelDb'>[], loud: number): boolean {
  const sorted = frames.map(({ levelDb }) => levelDb).sort((a, b) => a - b)
  const isSteady = sorted[Math.floor(sorted.length * 0.05)]! > sorted[Math.floor(sorted.length * 0.95)]! - 3
  const quiet = frames
    .map(({ levelDb }, index) => ({ levelDb, index }))
    .filter(({ levelDb }) => levelDb > -75 && (isSteady || levelDb < loud - 15))
    .sort((a, b) => a.levelDb - b.levelDb)
    .slice(0, 40)
  if (quiet.length < 10) return false
  const spectrum = new PowerSpectrum(8192)
  const sums = { mains50: 0, mains60: 0, all: 0 }
  for (const { index } of quiet) {
    const middle = Math.round((index * listeningRate) / 100)
    spectrum.look(samples, middle - 4096)
    for (const power of spectrum.bins) sums.all += power
    for (let harmonic = 1; harmonic <= 6; harmonic++) {
      sums.mains50 += 3 * spectrum.near(50 * harmonic)
      sums.mains60 += 3 * spectrum.near(60 * harmonic)
    }
  }
  return Math.max(sums.mains50, sums.mains60) > 0.6 * sums.all
}

/** What is to be done, said to whoever plays. */
export const remarkOf: Readonly<Record<SoundProblem, string>> = {
  silent: 'Nothing is to be heard. Is the input connected, and the right channel chosen?',
  weak: 'The sound is weak: pitches of soft notes may be wrong. Turn the input up, or come nearer.',
  clipped: 'The sound is too loud for the input and is cut off at the top. Turn the input down.',
  hums: 'The mains hum between the notes. Another cable or place may help; soft notes may be lost in it.',
  noise: 'There is hardly any pitch in this sound: what is noise cannot become notes.',
  speech: 'This sounds like somebody speaking. Spoken pitches glide: its notes are guesses.',
}
