import { type Attack, attacksIn } from './attacks'
import { beginningOf } from './beginning'
import { likeliestLine, silence } from './likeliestLine'
import { keyOfFrequency, type ListenerSettings, listeningRate } from './listenerSettings'
import { likeliestOf } from './periods'
import { frameMs, type ListenedSound, type SoundFrame, soundingHz } from './soundFrames'
import { PowerSpectrum } from './spectrum'
import { strikesIn } from './strikes'
import { tuningOf } from './tuning'
import { otherOfTwo } from './twoAtOnce'

/** A note that was heard. */
export interface HeardNote {
  readonly onsetMs: number
  readonly durationMs: number
  readonly key: number
  /** From how strongly it begins, 1 to 127. */
  readonly velocity: number
  /** How sure it is, from 0 to 1. */
  readonly confidence: number
}

export interface ReadLine {
  readonly notes: readonly HeardNote[]
  /** How far the instrument is tuned above concert pitch. */
  readonly tuningCents: number
}

/** A stretch of frames in which one key sounds. */
interface Run {
  from: number
  to: number
  key: number
  /** What begins it, where something does. */
  attack: Attack | null
  /** Where it begins, where that was found more exactly than by frames. */
  onsetMs?: number
}

/**
 * Reads a line of single notes from a whole sound: the likeliest key at each moment, cut where the same key is struck anew, without what
 * no player plays: what two notes that overlap have in common, octaves that are mistaken at an attack, what rings on.
 */
export function readLine(sound: ListenedSound, settings: ListenerSettings): ReadLine {
  const { frames } = sound
  const tuningCents = tuningOf(frames, settings.concertHz)
  const attacks = attacksIn(sound.attacks, sound.attackStepMs, leastAttack(settings.sensitivity)).filter(
    ({ timeMs }) => !isAnEnd(frames, Math.round(timeMs / frameMs)),
  )
  const strengths = new Float32Array(frames.length)
  for (const { timeMs, strength } of attacks) {
    const middle = Math.round(timeMs / frameMs)
    for (let frame = middle - 2; frame <= middle + 4; frame++)
      if (frame >= 0 && frame < frames.length)
        strengths[frame] = Math.max(strengths[frame]!, Math.min(1, strength / 0.4))
  }
  const keys = likeliestLine(frames, (frame) => strengths[frame]!, settings, tuningCents)
  const found = begunAtAttacks(runsOf(keys), attacks)
  toldApart(found, sound.samples, settings, tuningCents)
  const lines = withoutMistakes(found, frames)
  begunSoftly(lines, sound.samples, settings, tuningCents)
  const runs = withoutEchoes(struckAnew(lines, sound, settings, tuningCents), frames, settings)
  return {
    tuningCents,
    notes: runs
      .filter(({ from, to }) => (to - from) * frameMs >= settings.shortestMs)
      .map((run) => noteOf(run, frames, settings, tuningCents)),
  }
}

/** A sound that breaks off is felt as widely in the spectrum as one that begins; but then there is less of it. */
function isAnEnd(frames: readonly SoundFrame[], frame: number): boolean {
  const level = (each: number) => frames[Math.max(0, Math.min(frames.length - 1, each))]!.levelDb
  return Math.max(level(frame + 3), level(frame + 5)) < level(frame - 3) - 6
}

const leastAttack = (sensitivity: number) => 0.09 * 4 ** (0.5 - sensitivity)

function runsOf(keys: Int16Array): Run[] {
  const runs: Run[] = []
  for (let frame = 0; frame < keys.length; frame++) {
    const key = keys[frame]!
    const last = runs.at(-1)
    if (key === silence) continue
    if (last && last.key === key && last.to === frame) last.to++
    else runs.push({ from: frame, to: frame + 1, key, attack: null })
  }
  return runs
}

/** A key is known a little after it was struck, and at times before: the attack near it is its beginning. */
function begunAtAttacks(runs: Run[], attacks: readonly Attack[]): Run[] {
  let first = 0
  for (const [index, run] of runs.entries()) {
    const beganMs = run.from * frameMs
    while (first < attacks.length && attacks[first]!.timeMs < beganMs - longestFoundLateMs) first++
    let best: Attack | null = null
    for (let each = first; each < attacks.length; each++) {
      const attack = attacks[each]!
      if (attack.timeMs > beganMs + longestFoundEarlyMs) break
      if (!best || nearness(attack, beganMs) > nearness(best, beganMs)) best = attack
    }
    if (!best) continue
    const before = runs[index - 1]
    const frame = Math.round(best.timeMs / frameMs)
    if (before && frame <= before.from) continue
    run.attack = best
    if (frame < run.to) run.from = frame
    if (before && before.to > run.from) before.to = run.from
  }
  return runs.filter(({ from, to }) => to > from)
}

const longestFoundLateMs = 110
const longestFoundEarlyMs = 50

const nearness = ({ timeMs, strength }: Attack, ms: number) =>
  Math.min(0.5, strength) * Math.exp(-(((timeMs - ms + 10) / 45) ** 2) / 2)

/** Distances of harmonics above what they are harmonics of, in keys: the second to the eighth. */
const harmonics = [12, 19, 24, 28, 31, 34, 36]
const isHarmonic = (interval: number) => harmonics.includes(interval)

/** What a note that still rings and the next one have in common gets the key of the next one. */
function toldApart(
  runs: readonly Run[],
  samples: Float32Array,
  { concertHz }: ListenerSettings,
  tuningCents: number,
): void {
  const spectrum = new PowerSpectrum(2048)
  for (const [index, run] of runs.entries()) {
    const before = runs[index - 1]
    if (!before || run.from - before.to > 3 || !isHarmonic(before.key - run.key)) continue
    const moments = [0.3, 0.5, 0.7].map((part) =>
      Math.round(((run.from + part * (run.to - run.from)) * frameMs * listeningRate) / 1000),
    )
    const tuned = concertHz * 2 ** (tuningCents / 1200)
    run.key = otherOfTwo(run.key, before.key, moments, samples, spectrum, tuned) ?? run.key
  }
}

/** Short stretches that nobody played, which the note after them begins with, or the one before ends with. */
function withoutMistakes(runs: Run[], frames: readonly SoundFrame[]): Run[] {
  const kept: Run[] = []
  for (let index = 0; index < runs.length; index++) {
    const run = runs[index]!
    const lengthMs = (run.to - run.from) * frameMs
    const before = kept.at(-1)
    const after = runs[index + 1]
    const touchesBefore = before && run.from - before.to <= 3
    const touchesAfter = after && after.from - run.to <= 3
    // Two notes that overlap repeat together with a period that both have: it is below both, and nobody plays it.
    const isOverlap =
      lengthMs <= 180 &&
      touchesBefore &&
      touchesAfter &&
      isHarmonic(before.key - run.key) &&
      isHarmonic(after.key - run.key)
    const isOctaveOfNext =
      lengthMs <= 110 && touchesAfter && !after.attack && isHarmonic(Math.abs(after.key - run.key))
    if (isOverlap || isOctaveOfNext) {
      after.from = run.from
      after.attack = run.attack ?? after.attack
      continue
    }
    const isOctaveOfLast =
      touchesBefore && !run.attack && lengthMs <= 150 && isHarmonic(Math.abs(before.key - run.key))
    // A key that is brushed on the way from one to the other.
    const isPassed =
      touchesBefore &&
      touchesAfter &&
      !run.attack &&
      !after.attack &&
      (lengthMs < 60 || (lengthMs < 120 && isOnItsWay(run, before.key, after.key, frames)))
    if (isOctaveOfLast || isPassed) {
      if (isPassed && !isOctaveOfLast) after.from = run.from
      else before.to = run.to
      continue
    }
    // The same key again without anything that begins it: it was only lost for a moment.
    if (before && before.key === run.key && !run.attack && run.from - before.to <= 6) {
      const gap = frames.slice(before.to, run.from)
      const lowest = Math.min(...gap.map(({ levelDb }) => levelDb), 0)
      if (gap.length === 0 || lowest > (frames[run.from]?.levelDb ?? 0) - 10) {
        before.to = run.to
        continue
      }
    }
    kept.push(run)
  }
  return kept
}

/** Notes begin where their harmonics began to rise. */
function begunSoftly(
  runs: readonly Run[],
  samples: Float32Array,
  { concertHz }: ListenerSettings,
  tuningCents: number,
): void {
  const spectrum = new PowerSpectrum(1024)
  for (const [index, run] of runs.entries()) {
    const last = runs[index - 1]
    const before = last && run.from - last.to <= 12 ? last : null
    if (before?.key === run.key) continue
    const note = { key: run.key, foundMs: run.from * frameMs, before: before?.key ?? null }
    const onsetMs = beginningOf(spectrum, samples, note, concertHz, tuningCents / 100)
    const earliestMs = Math.max(
      before ? before.from * frameMs + 40 : 0,
      run.attack && run.attack.strength > plainAttack ? run.attack.timeMs - swellMs : 0,
    )
    const latestMs = run.attack ? run.attack.timeMs - feltLateMs : onsetMs
    run.onsetMs = Math.max(earliestMs, Math.min(onsetMs, latestMs))
    run.from = Math.min(run.to - 1, Math.round(run.onsetMs / frameMs))
    if (before && before.to > run.from) before.to = run.from
  }
}

const plainAttack = 0.3
/** How long before a plain attack a note may have begun to swell. */
const swellMs = 70
/** The spectrum rises most when this much of the window is behind the beginning. */
const feltLateMs = 7

/** Whether a key between two others never stands: its pitch moves from the one towards the other while it lasts. */
function isOnItsWay(run: Run, from: number, to: number, frames: readonly SoundFrame[]): boolean {
  if (Math.sign(run.key - from) !== Math.sign(to - run.key)) return false
  const pitches = frames.slice(run.from, run.to).flatMap(({ candidates }) => {
    const best = likeliestOf(candidates)
    return best && best.probability > 0.5 ? [12 * Math.log2(best.frequencyHz)] : []
  })
  if (pitches.length < 3) return true
  return (pitches.at(-1)! - pitches[0]!) * Math.sign(to - from) > 0.4
}

/** Cuts a key that is struck again while it sounds. */
function struckAnew(
  runs: readonly Run[],
  sound: ListenedSound,
  { sensitivity, shortestMs, concertHz }: ListenerSettings,
  tuningCents: number,
): Run[] {
  const sure = surest - sensitivity / 2
  const leastMs = Math.max(70, shortestMs)
  return runs.flatMap((run) => {
    const own = sound.frames.slice(run.from, run.to)
    const strikes = strikesIn(sound, soundingHz(own, run.key + tuningCents / 100, concertHz), {
      fromMs: beganMsOf(run),
      toMs: run.to * frameMs - leastMs,
      leastMs,
      sure,
    })
    const starts = [run, ...strikes.map(({ onsetMs }) => ({ from: Math.round(onsetMs / frameMs), onsetMs }))]
    return starts.map((start, index) => ({
      ...(index === 0 ? run : { key: run.key, attack: null, ...start }),
      from: start.from,
      to: starts[index + 1]?.from ?? run.to,
    }))
  })
}

/** How likely something must be at the least sensitivity to be taken for an attack. */
const surest = 0.85

/** What only rings on: softer by far than what was played before it, and begun by nothing. */
function withoutEchoes(
  runs: readonly Run[],
  frames: readonly SoundFrame[],
  { gateDb }: ListenerSettings,
): Run[] {
  let strongestDb = -120
  let strongestAt = 0
  return runs.filter((run) => {
    let peak = -120
    for (let frame = run.from; frame < run.to; frame++) peak = Math.max(peak, frames[frame]!.levelDb)
    const dyingDb = strongestDb - ((run.from - strongestAt) * frameMs) / 100
    const isEcho = !run.attack && run.onsetMs === undefined && peak < dyingDb - 22
    if (peak >= dyingDb) {
      strongestDb = peak
      strongestAt = run.from
    }
    return !isEcho && peak > gateDb + 3
  })
}

const beganMsOf = ({ onsetMs, attack, from }: Run) =>
  onsetMs ?? (attack ? attack.timeMs - feltLateMs : from * frameMs)

function noteOf(
  run: Run,
  frames: readonly SoundFrame[],
  { concertHz }: ListenerSettings,
  tuningCents: number,
): HeardNote {
  let sure = 0
  let peakDb = -120
  for (let frame = run.from; frame < run.to; frame++) {
    const { candidates, levelDb } = frames[frame]!
    if ((frame - run.from) * frameMs <= 100) peakDb = Math.max(peakDb, levelDb)
    for (const { frequencyHz, probability } of candidates)
      if (Math.abs(keyOfFrequency(frequencyHz, concertHz) - tuningCents / 100 - run.key) <= 0.6)
        sure += probability
  }
  const onsetMs = beganMsOf(run)
  return {
    onsetMs,
    durationMs: Math.max(frameMs, run.to * frameMs - onsetMs),
    key: run.key,
    velocity: velocityOf(peakDb),
    confidence: Math.min(1, sure / (run.to - run.from)),
  }
}

/** Forty decibels from the softest to the loudest, as most instruments have them. */
export function velocityOf(peakDb: number): number {
  return Math.max(1, Math.min(127, Math.round(127 + (peakDb + 9) * 2.7)))
}
