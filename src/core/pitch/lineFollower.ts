import { AttackStrength } from './attackStrength'
import { beginningOf } from './beginning'
import { KeyEvidence } from './keyEvidence'
import { frequencyOfKey, keyOfFrequency, type ListenerSettings, listeningRate } from './listenerSettings'
import { type HeardPitch, PitchWindows, showsOctaveBelow } from './pitchWindows'
import { velocityOf } from './readLine'
import { RisingPitch } from './risingPitch'
import { levelOf } from './soundFrames'
import { PowerSpectrum } from './spectrum'

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

/** Five milliseconds from step to step; twice as often while it is not known yet what began. */
const stepSamples = 110
const stepMs = (stepSamples / listeningRate) * 1000
const glanceSamples = stepSamples / 2
const attackWindow = 256
/** Harmonics that begin to rise are told apart in this. */
const beginningWindow = 1024
/** This much of the past is kept. */
const keptSamples = 4096
/** Distances at which a pitch is easily mistaken: those of harmonics, in keys. */
const harmonics = [12, 19, 24, 28, 31, 34, 36]

/** Something began, and its key is not known yet. */
interface Beginning {
  readonly sinceMs: number
  /** Its attack was heard; else only that there is sound. */
  readonly isStruck: boolean
  readonly evidence: KeyEvidence
  readonly rising: RisingPitch
}

interface Sounding {
  readonly key: number
  readonly onsetMs: number
  readonly sinceMs: number
  loudestDb: number
  /** What speaks for other keys since it is clear. */
  readonly rivals: KeyEvidence
  /** The likeliest of them, and for how long it has been. */
  rivalKey: number
  rivalMs: number
  /** How long no pitch was heard. */
  lostMs: number
}

/**
 * Follows a line of single notes while it is played: only what was heard until then decides. Of a new note its first milliseconds are
 * heard through windows that hold little of the note before, longer and longer, until one key is likelier by enough than all others; while
 * it sounds, the same is asked of every other key. Whatever pieces the sound comes in, the same is followed.
 */
export class LineFollower {
  private readonly buffer = new Float32Array(keptSamples * 4)
  private filled = 0
  private total = 0
  private untilStep = glanceSamples
  private glances = 0
  private readonly windows: PitchWindows
  private readonly spectrum = new PowerSpectrum(beginningWindow)
  private readonly attack = new AttackStrength(attackWindow, 2)
  private readonly attacks: number[] = []
  private readonly levelsDb: number[] = []
  private beginning: Beginning | null = null
  private sounding: Sounding | null = null
  private steps = 0
  private frames: FollowedFrame[] = []
  private place: number | null = null
  private confidence = 0

  constructor(private readonly settings: ListenerSettings) {
    this.windows = new PitchWindows(settings)
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
      this.untilStep = glanceSamples
      if (++this.glances % 2 === 0) this.step(events)
      else if (this.beginning) this.decide(this.beginning, events)
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

  private levelDb(): number {
    return levelOf(this.buffer, this.filled - 512, 512)
  }

  private begun(sinceMs: number, isStruck: boolean): Beginning {
    return { sinceMs, isStruck, evidence: new KeyEvidence(this.settings), rising: new RisingPitch() }
  }

  private step(events: FollowedEvent[]): void {
    const { gateDb } = this.settings
    const nowMs = this.nowMs()
    const levelDb = this.levelDb()
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
      this.beginning = this.begun(nowMs - stepMs, isStruck)
    if (this.beginning) this.decide(this.beginning, events)
    if (this.sounding && !this.beginning) this.noticeChange(this.sounding, nowMs, levelDb, events)
    if (isFrame) this.keepFrame(nowMs, levelDb)
  }

  /** Whether the spectrum and the level rise together, more than they did of late. */
  private isStruck(nowMs: number): boolean {
    const levelDb = levelOf(this.buffer, this.filled - attackWindow, attackWindow)
    const attack = this.attack.of(this.buffer, this.filled - attackWindow)
    const sorted = Float32Array.from(this.attacks).sort()
    const usual = sorted[Math.floor(sorted.length * 0.8)] ?? 0
    this.attacks.push(attack)
    if (this.attacks.length > 40) this.attacks.shift()
    this.levelsDb.push(levelDb)
    if (this.levelsDb.length > 8) this.levelsDb.shift()
    const riseDb = levelDb - Math.min(...this.levelsDb.slice(0, -1), 0)
    const sinceMs = this.sounding ? nowMs - this.sounding.sinceMs : Infinity
    const least = 0.12 * 4 ** (0.5 - this.settings.sensitivity)
    return attack > least && attack > usual * 2.5 + 0.03 && riseDb > 1.5 && sinceMs > 60
  }

  private decide(beginning: Beginning, events: FollowedEvent[]): void {
    const nowMs = this.nowMs()
    const heardSamples = ((nowMs - beginning.sinceMs) / 1000) * listeningRate - leavingSamples
    const heard = this.windows.hearClearest(this.buffer, this.filled, heardSamples)
    if (!heard) return
    this.trace(heard)
    const centreMs = nowMs - ((heard.window / listeningRate) * 1000) / 2
    const goesOnBy = beginning.rising.goesOnBy(heard.probability > 0.6 ? heard.place : Number.NaN, centreMs)
    // What does not repeat exactly in a window that is too short for an octave below may be any harmonic.
    if (showsOctaveBelow(heard.window, heard.frequencyHz) || heard.clarity > exactClarity) {
      const candidates = heard.candidates.map((each) => ({
        ...each,
        frequencyHz: each.frequencyHz * 2 ** (goesOnBy / 12),
      }))
      beginning.evidence.add(candidates, weightOf(heard.clarity, 0.65) * (glanceSamples / stepSamples))
    }
    const { key, lead } = beginning.evidence.likeliest()
    if (lead > beginningLead) {
      this.beginning = null
      if (this.sounding?.key === key && !beginning.isStruck) return
      this.release(nowMs, beginning.sinceMs, events)
      this.begin(nowMs, beginning.sinceMs, key, heard.probability, this.levelDb(), events)
    } else if (nowMs - beginning.sinceMs > longestBeginningMs) {
      this.beginning = this.sounding ? null : this.begun(nowMs - 100, false)
    }
  }

  /** Notes that are bound to each other begin without an attack: another key becomes likelier than the one that sounds. */
  private noticeChange(sounding: Sounding, nowMs: number, levelDb: number, events: FollowedEvent[]): void {
    const { concertHz } = this.settings
    const soundingHz = frequencyOfKey(sounding.key, concertHz)
    const short = this.windows.hear(this.buffer, this.filled, 512)
    const isPlain = short.clarity >= 0.85 && showsOctaveBelow(512, short.frequencyHz)
    const heard = isPlain
      ? short
      : this.windows.hear(this.buffer, this.filled, soundingHz < lowHz ? 2048 : 1024)
    this.trace(heard)
    sounding.loudestDb = Math.max(sounding.loudestDb, levelDb)
    if (heard.probability < 0.35) {
      sounding.lostMs += stepMs
      if (sounding.lostMs > longestLostMs) this.release(nowMs, nowMs - sounding.lostMs, events)
      return
    }
    sounding.lostMs = 0
    const candidates = heard.candidates.map((each) => {
      const isOwn = Math.abs(keyOfFrequency(each.frequencyHz, concertHz) - sounding.key) <= swayKeys
      return isOwn ? { ...each, frequencyHz: soundingHz } : each
    })
    sounding.rivals.add(candidates, weightOf(heard.clarity, 0.5))
    sounding.rivals.against(sounding.key)
    const { key, lead } = sounding.rivals.likeliest()
    sounding.rivalMs = key === sounding.rivalKey && lead > 0 ? sounding.rivalMs + stepMs : stepMs
    sounding.rivalKey = key
    const isHarmonic = harmonics.includes(Math.abs(key - sounding.key))
    if (lead < (isHarmonic ? harmonicLead : changeLead) || levelDb < sounding.loudestDb - 30) return
    const sinceMs = this.beganAt(key, sounding, nowMs - sounding.rivalMs)
    this.release(nowMs, sinceMs, events)
    this.begin(nowMs, sinceMs, key, heard.probability, levelDb, events)
  }

  private trace({ place, probability }: HeardPitch): void {
    this.place = Number.isNaN(place) ? null : place
    this.confidence = probability
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
      rivals: new KeyEvidence(this.settings),
      rivalKey: -1,
      rivalMs: 0,
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

/** Half of what the level is told from. */
const levelBackMs = 12
/** Half a minute. */
const mostFrames = 3000
/** A key that begins is told when it is likelier than all others by this, in natural logarithms: some thirteen times. */
const beginningLead = 2.6
/** A key is kept unless another one is likelier by this, which takes some ten milliseconds; a harmonic of it some thirty. */
const changeLead = 5
const harmonicLead = 16
/** How much a window says that repeats so exactly: from the clarity at which it says nearly nothing, to 1. */
const weightOf = (clarity: number, nothing: number) => Math.max(0.05, Math.min(1, (clarity - nothing) / 0.3))
/** What repeats more exactly than this does not repeat an octave below instead. */
const exactClarity = 0.96
/** Vibrato and intonation sway this far from the middle of a key before it is another one. */
const swayKeys = 0.75
/** Lower tones need a longer window. */
const lowHz = 75
/** A note without a pitch for this long is over. */
const longestLostMs = 90
/** The note before is still in the first milliseconds of the next: four, with the step in which it was noticed. */
const leavingSamples = 90
/** A mistaken octave is mended within this. */
const mendedMs = 80
/** What has no pitch for so long is the noise of an attack, or none. */
const longestBeginningMs = 250
