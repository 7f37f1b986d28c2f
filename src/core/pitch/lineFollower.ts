import { AttackStrength } from './attackStrength'
import { beginningOf } from './beginning'
import { frequencyOfKey, keyOfFrequency, type ListenerSettings, listeningRate } from './listenerSettings'
import { candidatesOf, type PitchCandidate, periodsOf } from './periods'
import { velocityOf } from './readLine'
import { levelOf } from './soundFrames'
import { PowerSpectrum } from './spectrum'
import { SquareDifference } from './squareDifference'

/** What is heard while it is played. */
export type FollowedEvent =
  | {
      readonly kind: 'on'
      /** When it was known, in the sound that was pushed. */
      readonly timeMs: number
      /** When it began. */
      readonly onsetMs: number
      readonly key: number
      readonly velocity: number
      readonly confidence: number
    }
  | {
      readonly kind: 'off'
      readonly timeMs: number
      /** When it ended: where another follows, at its beginning. Where it began, when it is taken back: it was mistaken, or too short. */
      readonly endMs: number
      readonly key: number
    }

export type FollowedOnset = Extract<FollowedEvent, { kind: 'on' }>

/** The notes that were followed to their end, without those that were taken back. */
export function notesOfFollowed(events: readonly FollowedEvent[]): FollowedOnset[] {
  const notes: FollowedOnset[] = []
  let open: FollowedOnset | null = null
  for (const event of events) {
    if (event.kind === 'on') open = event
    else if (open && event.endMs > open.onsetMs) notes.push(open)
  }
  return notes
}

/** What is heard at one moment, note or not: why a note was begun. */
export interface FollowedFrame {
  readonly timeMs: number
  readonly levelDb: number
  /** Between the keys, 60 being middle C; null: no pitch is heard. */
  readonly place: number | null
  /** From 0 to 1. */
  readonly confidence: number
  /** The key that sounds. */
  readonly key: number | null
}

/** Five milliseconds from step to step. */
const stepSamples = 110
const stepMs = (stepSamples / listeningRate) * 1000
/** The sound since an attack is heard through the longest of these that it fills. */
const windows = [256, 384, 512, 768, 1024, 2048] as const
const changeWindow = windows.indexOf(512)
const followWindow = windows.indexOf(1024)
const lowWindow = windows.indexOf(2048)
const attackWindow = 256
/** Harmonics that begin to rise are told apart in this. */
const beginningWindow = 1024
/** This much of the past is kept. */
const keptSamples = 4096
/** Distances at which a pitch is easily mistaken: those of harmonics, in keys. */
const harmonics = [12, 19, 24, 28, 31, 34, 36]

/** Something began, and its pitch is not known yet. */
interface Beginning {
  readonly sinceMs: number
  /** Its attack was heard; else only that there is sound. */
  readonly isStruck: boolean
  /** Where the pitch seems to be, and for how many steps. */
  place: number
  steps: number
}

interface Sounding {
  readonly key: number
  readonly onsetMs: number
  readonly sinceMs: number
  loudestDb: number
  /** Where the pitch has gone, and how long ago. */
  driftKey: number
  driftMs: number
  /** How long no pitch was heard. */
  lostMs: number
}

interface Heard {
  readonly place: number
  readonly frequencyHz: number
  readonly probability: number
  readonly clarity: number
}

/**
 * Follows a line of single notes while it is played: only what was heard until then decides. Of a new note its first milliseconds are
 * heard through windows that hold nothing of the note before, longer and longer until they agree; a pitch is only taken from a window in
 * which an octave below it could be seen as well. Whatever pieces the sound comes in, the same is followed.
 */
export class LineFollower {
  private readonly buffer = new Float32Array(keptSamples * 4)
  private filled = 0
  private total = 0
  private untilStep = stepSamples
  private readonly alike = windows.map((size) => new SquareDifference(size))
  private readonly spectrum = new PowerSpectrum(beginningWindow)
  private readonly attack = new AttackStrength(attackWindow, 2)
  private readonly lowestHz: number
  private readonly highestHz: number
  private readonly attacks: number[] = []
  private readonly levelsDb: number[] = []
  private beginning: Beginning | null = null
  private sounding: Sounding | null = null
  private steps = 0
  private changeSteps = 0
  private changePlace = Number.NaN
  private frames: FollowedFrame[] = []
  private place: number | null = null
  private confidence = 0

  constructor(private readonly settings: ListenerSettings) {
    this.lowestHz = frequencyOfKey(settings.lowKey - 0.7, settings.concertHz)
    this.highestHz = frequencyOfKey(settings.highKey + 0.7, settings.concertHz)
  }

  /** @param samples one channel at `listeningRate`, right behind what came before. @returns what is known now */
  push(samples: Float32Array): FollowedEvent[] {
    const events: FollowedEvent[] = []
    for (let at = 0; at < samples.length; ) {
      const count = Math.min(samples.length - at, this.untilStep)
      if (this.filled + count > this.buffer.length) {
        this.buffer.copyWithin(0, this.filled - keptSamples, this.filled)
        this.filled = keptSamples
      }
      this.buffer.set(samples.subarray(at, at + count), this.filled)
      this.filled += count
      this.total += count
      at += count
      this.untilStep -= count
      if (this.untilStep > 0) continue
      this.untilStep = stepSamples
      this.step(events)
    }
    return events
  }

  /** @returns what was heard since this was asked last, every ten milliseconds; what nobody asks for is let go after a while */
  takeFrames(): FollowedFrame[] {
    const { frames } = this
    this.frames = []
    return frames
  }

  private keepFrame(timeMs: number, levelDb: number): void {
    if (this.frames.length >= mostFrames) this.frames = []
    const { place, confidence } = this
    this.frames.push({ timeMs, levelDb, place, confidence, key: this.sounding?.key ?? null })
  }

  /** The source is gone: what sounds ends. */
  end(): FollowedEvent[] {
    const events: FollowedEvent[] = []
    this.release(this.nowMs(), this.nowMs(), events)
    return events
  }

  private nowMs(): number {
    return (this.total / listeningRate) * 1000
  }

  private step(events: FollowedEvent[]): void {
    const { gateDb } = this.settings
    const nowMs = this.nowMs()
    const levelDb = levelOf(this.buffer, this.filled - 512, 512)
    const isStruck = this.isStruck(nowMs)
    const isFrame = this.steps++ % 2 === 0
    if (levelDb < gateDb) {
      this.beginning = null
      this.place = null
      this.confidence = 0
      this.release(nowMs, nowMs - levelBackMs, events)
      if (isFrame) this.keepFrame(nowMs, levelDb)
      return
    }
    const isOther = !this.beginning || nowMs - this.beginning.sinceMs > 60
    if ((isStruck && isOther) || (!this.sounding && !this.beginning))
      this.beginning = { sinceMs: nowMs - stepMs, isStruck, place: Number.NaN, steps: 0 }
    if (this.beginning) this.decide(this.beginning, nowMs, levelDb, events)
    if (this.sounding && !this.beginning) this.noticeChange(this.sounding, nowMs, levelDb, events)
    if (this.sounding && !this.beginning?.isStruck && isFrame)
      this.follow(this.sounding, nowMs, levelDb, events)
    if (isFrame) this.keepFrame(nowMs, levelDb)
  }

  /** Whether the spectrum and the level rise together, more than they did of late. */
  private isStruck(nowMs: number): boolean {
    const levelDb = levelOf(this.buffer, this.filled - attackWindow, attackWindow)
    const attack = this.attack.of(this.buffer, this.filled - attackWindow)
    const sorted = [...this.attacks].sort((a, b) => a - b)
    const usual = sorted[Math.floor(sorted.length * 0.8)] ?? 0
    this.attacks.push(attack)
    if (this.attacks.length > 40) this.attacks.shift()
    this.levelsDb.push(levelDb)
    if (this.levelsDb.length > 8) this.levelsDb.shift()
    const riseDb = levelDb - Math.min(...this.levelsDb.slice(0, -2), 0)
    const sinceMs = this.sounding ? nowMs - this.sounding.sinceMs : Infinity
    const least = 0.12 * 4 ** (0.5 - this.settings.sensitivity)
    return attack > least && attack > usual * 2.5 + 0.03 && riseDb > 1.5 && sinceMs > 60
  }

  private decide(beginning: Beginning, nowMs: number, levelDb: number, events: FollowedEvent[]): void {
    const heardSamples = ((nowMs - beginning.sinceMs) / 1000) * listeningRate - leavingSamples
    const which = windows.findLastIndex((size) => size <= heardSamples)
    if (which < 0) return
    const heard = this.hear(which)
    // An octave below could be seen as well; or it repeats so exactly that there is none.
    const isWhole = (listeningRate / heard.frequencyHz) * 2.05 <= reachOf(which) || heard.clarity > 0.96
    // Who reaches for a key from beneath is not there yet.
    const isBetween = Math.abs(heard.place - Math.round(heard.place)) > betweenKeys
    const isReaching = isBetween && nowMs - beginning.sinceMs < longestReachMs
    const isClear = heard.probability > 0.6 && heard.clarity > 0.7 && isWhole && !isReaching
    const isTheSame = Math.abs(heard.place - beginning.place) < 0.35
    beginning.steps = isClear ? (isTheSame ? beginning.steps + 1 : 1) : 0
    beginning.place = isClear ? heard.place : Number.NaN
    const needed = heard.clarity > 0.95 ? 2 : heard.clarity > 0.85 ? 3 : 4
    if (beginning.steps >= needed) {
      this.beginning = null
      const key = Math.round(heard.place)
      if (this.sounding?.key === key && !beginning.isStruck) return
      this.release(nowMs, beginning.sinceMs, events)
      this.begin(nowMs, beginning.sinceMs, key, heard.probability, levelDb, events)
    } else if (nowMs - beginning.sinceMs > longestBeginningMs) {
      this.beginning = this.sounding
        ? null
        : { sinceMs: nowMs - 100, isStruck: false, place: Number.NaN, steps: 0 }
    }
  }

  /** Notes that are bound to each other begin without an attack: a short window tells the next one soon. */
  private noticeChange(sounding: Sounding, nowMs: number, levelDb: number, events: FollowedEvent[]): void {
    const heard = this.hear(changeWindow)
    const isWhole = (listeningRate / heard.frequencyHz) * 2.05 <= reachOf(changeWindow)
    const isOther = Math.abs(heard.place - sounding.key) > swayKeys
    if (heard.clarity < 0.85 || heard.probability < 0.6 || !isWhole || !isOther) {
      this.changeSteps = 0
      return
    }
    this.changeSteps = Math.abs(heard.place - this.changePlace) < steadyKeys ? this.changeSteps + 1 : 1
    this.changePlace = heard.place
    const key = Math.round(heard.place)
    const isHarmonic = harmonics.includes(Math.abs(key - sounding.key))
    const needed = isHarmonic ? 8 : heard.clarity > 0.93 ? 3 : 4
    if (this.changeSteps < needed || levelDb < sounding.loudestDb - 30) return
    const sinceMs = this.beganAt(key, sounding, nowMs - this.changeSteps * stepMs)
    this.changeSteps = 0
    this.release(nowMs, sinceMs, events)
    this.begin(nowMs, sinceMs, key, heard.probability, levelDb, events)
  }

  private follow(sounding: Sounding, nowMs: number, levelDb: number, events: FollowedEvent[]): void {
    const isLow = frequencyOfKey(sounding.key, this.settings.concertHz) < 75
    const heard = this.hear(isLow ? lowWindow : followWindow)
    sounding.loudestDb = Math.max(sounding.loudestDb, levelDb)
    if (heard.probability < 0.35) {
      sounding.lostMs += 2 * stepMs
      if (sounding.lostMs > 90) this.release(nowMs, nowMs - sounding.lostMs, events)
      return
    }
    sounding.lostMs = 0
    if (Math.abs(heard.place - sounding.key) <= swayKeys) {
      sounding.driftMs = 0
      return
    }
    const key = Math.round(heard.place)
    sounding.driftMs = key === sounding.driftKey ? sounding.driftMs + 2 * stepMs : 2 * stepMs
    sounding.driftKey = key
    const patienceMs = harmonics.includes(Math.abs(key - sounding.key)) ? 90 : 35
    if (sounding.driftMs < patienceMs || levelDb < sounding.loudestDb - 30) return
    const sinceMs = this.beganAt(key, sounding, nowMs - sounding.driftMs)
    this.release(nowMs, sinceMs, events)
    this.begin(nowMs, sinceMs, key, heard.probability, levelDb, events)
  }

  /** When the harmonics of a key began to rise that was not struck, as far as is known now. */
  private beganAt(key: number, sounding: Sounding, foundMs: number): number {
    // A harmonic that was taken for the note, and is mended soon: it is the same note.
    const isMended = harmonics.includes(Math.abs(key - sounding.key)) && foundMs - sounding.sinceMs < mendedMs
    if (isMended) return sounding.onsetMs
    const before = sounding.key
    const heldFromMs = ((this.total - this.filled) / listeningRate) * 1000
    const note = { key, foundMs: foundMs - heldFromMs, before }
    const samples = this.buffer.subarray(0, this.filled)
    const beganMs = beginningOf(this.spectrum, samples, note, this.settings.concertHz, 0)
    const sinceMs = beganMs + heldFromMs
    return sinceMs - sounding.onsetMs < this.settings.shortestMs ? sounding.onsetMs : sinceMs
  }

  private hear(which: number): Heard {
    const { concertHz } = this.settings
    const longest = Math.min(reachOf(which), (listeningRate / this.lowestHz) * 1.1)
    const likeness = this.alike[which]!.of(this.buffer, this.filled - windows[which]!)
    const periods = periodsOf(likeness, listeningRate, longest)
    const clarity = periods.reduce((most, period) => Math.max(most, period.clarity), 0)
    const best = candidatesOf(periods).reduce<PitchCandidate>(
      (most, each) =>
        each.probability > most.probability &&
        each.frequencyHz >= this.lowestHz &&
        each.frequencyHz <= this.highestHz
          ? each
          : most,
      { frequencyHz: Number.NaN, probability: 0 },
    )
    const place = keyOfFrequency(best.frequencyHz, concertHz)
    this.place = Number.isNaN(place) ? null : place
    this.confidence = best.probability
    return { ...best, place, clarity }
  }

  private begin(
    timeMs: number,
    onsetMs: number,
    key: number,
    confidence: number,
    levelDb: number,
    events: FollowedEvent[],
  ): void {
    this.sounding = {
      key,
      onsetMs: Math.max(0, onsetMs),
      sinceMs: timeMs,
      loudestDb: levelDb,
      driftKey: -1,
      driftMs: 0,
      lostMs: 0,
    }
    const velocity = velocityOf(levelDb)
    events.push({ kind: 'on', timeMs, onsetMs: Math.max(0, onsetMs), key, velocity, confidence })
  }

  private release(timeMs: number, endMs: number, events: FollowedEvent[]): void {
    if (!this.sounding) return
    const { key, onsetMs } = this.sounding
    const isNote = endMs - onsetMs >= this.settings.shortestMs
    events.push({ kind: 'off', timeMs, endMs: isNote ? Math.min(timeMs, endMs) : onsetMs, key })
    this.sounding = null
  }
}

/** The longest lag at which enough of a window is left to compare, in samples. */
const reachOf = (which: number) => windows[which]! * 0.62
/** Half of what the level is told from. */
const levelBackMs = 12
/** Half a minute. */
const mostFrames = 3000
/** Vibrato and intonation sway this far from the middle of a key before it is another one. */
const swayKeys = 0.75
/** A pitch that stays where it is moves less from step to step; one that slides moves more. */
const steadyKeys = 0.15
/** The note before is still in the first six milliseconds of the next. */
const leavingSamples = 130
/** So far from a key, as a part of the way to the next, it is not told yet which it will be. */
const betweenKeys = 0.35
const longestReachMs = 45
/** A mistaken octave is mended within this. */
const mendedMs = 80
/** What has no pitch for so long is the noise of an attack, or none. */
const longestBeginningMs = 250
