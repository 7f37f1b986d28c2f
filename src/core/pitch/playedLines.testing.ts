import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { join } from 'node:path'
import { writeMidi } from 'midi-file'
import type { PlayedTone } from '../sound/models/playedTone'
import { inOneChannel, readWav } from '../sound/readWav'

/** What was played, so that what is heard can be compared. */
export interface KnownNote {
  readonly onsetMs: number
  readonly durationMs: number
  readonly key: number
  readonly velocity: number
}

/** Chance that comes again. */
export function chanceFrom(seed: number): () => number {
  let state = (seed * 2654435761) >>> 0 || 1
  return () => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return (state >>> 0) / 2 ** 32
  }
}

export interface LineManner {
  readonly lowKey: number
  readonly highKey: number
  /** Part of the distance to the next onset that a note is held. */
  readonly held: readonly [number, number]
  /** Shortest and longest distance between onsets. */
  readonly gapMs: readonly [number, number]
  /** How often a note is the one before once more. */
  readonly repeats: number
}

export const usualManner: LineManner = {
  lowKey: 48,
  highKey: 76,
  held: [0.75, 0.98],
  gapMs: [140, 650],
  repeats: 0.15,
}

/** A line of notes by chance: steps and leaps, repeated notes, rests now and then, uneven time. */
export function lineByChance(seed: number, count: number, manner: LineManner): KnownNote[] {
  const chance = chanceFrom(seed)
  const notes: KnownNote[] = []
  let onsetMs = 300
  let key = Math.round((manner.lowKey + manner.highKey) / 2)
  for (let index = 0; index < count; index++) {
    if (chance() >= manner.repeats) {
      const step = 1 + Math.floor(chance() * (chance() < 0.3 ? 12 : 4))
      const sign = chance() < 0.5 ? -1 : 1
      key += sign * step
      if (key < manner.lowKey || key > manner.highKey) key -= 2 * sign * step
    }
    const gapMs = manner.gapMs[0] + chance() ** 1.5 * (manner.gapMs[1] - manner.gapMs[0])
    const held = manner.held[0] + chance() * (manner.held[1] - manner.held[0])
    notes.push({ onsetMs, durationMs: gapMs * held, key, velocity: 55 + Math.floor(chance() * 65) })
    onsetMs += gapMs + (chance() < 0.06 ? 400 : 0)
  }
  return notes
}

/** Banks of instruments that are not this program's own: what is judged, by Tim Brechbill, package timgm6mb-soundfont. */
const bankForJudging = '/usr/share/sounds/sf2/TimGM6mb.sf2'
/** What is fitted, by Frank Wen, package fluid-soundfont-gm. */
export const bankForFitting = '/usr/share/sounds/sf2/FluidR3_GM.sf2'

/**
 * Has notes played by a sampler that is not this program's (fluidsynth), without its chorus and hall. What was played once is kept with the
 * packages, by all that it depends on.
 *
 * @returns one channel at 44,100 Hz
 */
export function playedBySampler(
  notes: readonly KnownNote[],
  program: number,
  { bendCents = 0, bank = bankForJudging } = {},
): Float32Array {
  const midi = midiOfLine(notes, program, bendCents)
  const { size, mtimeMs } = statSync(bank)
  const recipe = createHash('sha256').update(midi).update(`${bank} ${size} ${mtimeMs} ${samplerOptions}`)
  const kept = join(keptSounds, `${recipe.digest('hex')}.wav`)
  if (!existsSync(kept)) {
    mkdirSync(keptSounds, { recursive: true })
    const folder = mkdtempSync(join(keptSounds, 'played-'))
    try {
      writeFileSync(join(folder, 'line.mid'), midi)
      const files = ['-F', join(folder, 'line.wav'), bank, join(folder, 'line.mid')]
      execFileSync('fluidsynth', [...samplerOptions.split(' '), ...files], { stdio: 'ignore' })
      // Whole or not there, whoever else plays the same at the moment.
      renameSync(join(folder, 'line.wav'), kept)
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  }
  return inOneChannel(readWav(readFileSync(kept)))
}

const keptSounds = 'node_modules/.cache/sampled-sounds'
const samplerOptions = '-q -n -i -C 0 -R 0 -g 0.6 -r 44100 -O float -T wav'

function midiOfLine(notes: readonly KnownNote[], program: number, bendCents: number): Uint8Array {
  type Timed = { at: number; bytes: Parameters<typeof writeMidi>[0]['tracks'][0][0] }
  const timed: Timed[] = [
    { at: 0, bytes: { deltaTime: 0, type: 'setTempo', microsecondsPerBeat: 1_000_000 } },
    { at: 0, bytes: { deltaTime: 0, type: 'programChange', channel: 0, programNumber: program } },
    {
      at: 0,
      bytes: { deltaTime: 0, type: 'pitchBend', channel: 0, value: Math.round((bendCents / 200) * 8192) },
    },
  ]
  for (const { onsetMs, durationMs, key, velocity } of notes) {
    timed.push({
      at: Math.round(onsetMs),
      bytes: { deltaTime: 0, type: 'noteOn', channel: 0, noteNumber: key, velocity },
    })
    timed.push({
      at: Math.round(onsetMs + durationMs),
      bytes: { deltaTime: 0, type: 'noteOff', channel: 0, noteNumber: key, velocity: 64 },
    })
  }
  timed.sort((a, b) => a.at - b.at || (a.bytes.type === 'noteOff' ? -1 : 1))
  let before = 0
  const track = timed.map(({ at, bytes }) => {
    const event = { ...bytes, deltaTime: at - before }
    before = at
    return event
  })
  track.push({ deltaTime: 800, type: 'endOfTrack' })
  return Uint8Array.from(
    writeMidi({ header: { format: 0, numTracks: 1, ticksPerBeat: 1000 }, tracks: [track] }),
  )
}

/** Until a tone has a tenth of its loudest: before that a pipe is blown, and not heard yet. */
export function attackMsOf(
  model: (tone: PlayedTone, sampleRate: number) => Float32Array,
  tone: PlayedTone,
): number {
  const rate = 44_100
  const samples = model(tone, rate)
  const loudest = samples.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
  return (samples.findIndex((sample) => Math.abs(sample) > loudest / 10) / rate) * 1000
}

/**
 * Has a line played by a model of an instrument, one tone at a time: each is left within eight milliseconds when the next begins.
 *
 * @returns one channel at 44,100 Hz
 */
export function playedByModel(
  notes: readonly KnownNote[],
  model: (tone: PlayedTone, sampleRate: number) => Float32Array,
): Float32Array {
  const rate = 44_100
  const turnSamples = 0.008 * rate
  const at = (note: KnownNote) => Math.round((note.onsetMs / 1000) * rate)
  const last = notes.at(-1)!
  const sound = new Float32Array(at(last) + Math.ceil((last.durationMs / 1000 + 1) * rate))
  for (const [index, note] of notes.entries()) {
    const { key, velocity, durationMs } = note
    const tone = model({ key, velocity, seconds: durationMs / 1000, offCents: 0, seed: index }, rate)
    const next = notes[index + 1]
    const untilNext = next ? at(next) - at(note) : Number.POSITIVE_INFINITY
    for (const [sample, value] of tone.entries())
      sound[at(note) + sample]! += value * Math.max(0, Math.min(1, 1 - (sample - untilNext) / turnSamples))
  }
  return sound
}

/** White noise under a sound. @param ratioDb how far below the sound's mean power */
export function withNoise(samples: Float32Array, ratioDb: number, seed: number): Float32Array {
  const chance = chanceFrom(seed)
  let power = 0
  for (const sample of samples) power += sample * sample
  const size = Math.sqrt((power / samples.length) * 10 ** (-ratioDb / 10)) * Math.sqrt(3)
  return samples.map((sample) => sample + size * (2 * chance() - 1))
}

/**
 * In a room: an answer of exponentially dying noise, after M. R. Schroeder, "Natural Sounding Artificial Reverberation", J. Audio Eng.
 * Soc. 10 (1962), as combs and all-passes.
 *
 * @param wet how much of what is heard is the room, from 0 to 1
 */
export function inRoom(
  samples: Float32Array,
  sampleRate: number,
  seconds: number,
  wet: number,
): Float32Array {
  const sum = new Float32Array(samples.length)
  for (const delayMs of [29.7, 37.1, 41.1, 43.7]) {
    const delay = Math.round((delayMs / 1000) * sampleRate)
    const gain = 10 ** ((-3 * delayMs) / 1000 / seconds)
    const line = new Float32Array(delay)
    for (let index = 0; index < samples.length; index++) {
      const out = line[index % delay]!
      line[index % delay] = samples[index]! + gain * out
      sum[index]! += out / 4
    }
  }
  for (const delayMs of [5, 1.7]) {
    const delay = Math.round((delayMs / 1000) * sampleRate)
    const line = new Float32Array(delay)
    for (let index = 0; index < sum.length; index++) {
      const held = line[index % delay]!
      const input = sum[index]! + 0.7 * held
      line[index % delay] = input
      sum[index] = held - 0.7 * input
    }
  }
  return samples.map((sample, index) => sample * (1 - wet) + sum[index]! * wet)
}

/**
 * The usual measure of transcription: notes of the right key whose onset lies within 50 ms, each counted once.
 */
export function compareNotes(
  known: readonly KnownNote[],
  heard: readonly { onsetMs: number; key: number }[],
): {
  f1: number
  found: number
  extra: number
  missed: KnownNote[]
  surplus: { onsetMs: number; key: number }[]
} {
  const left = [...heard]
  const missed: KnownNote[] = []
  let found = 0
  for (const note of known) {
    let best = -1
    for (const [index, each] of left.entries()) {
      const distance = Math.abs(each.onsetMs - note.onsetMs)
      if (each.key !== note.key || distance > 50) continue
      if (best < 0 || distance < Math.abs(left[best]!.onsetMs - note.onsetMs)) best = index
    }
    if (best < 0) missed.push(note)
    else {
      found++
      left.splice(best, 1)
    }
  }
  return {
    f1: (2 * found) / Math.max(1, known.length + heard.length),
    found,
    extra: left.length,
    missed,
    surplus: left,
  }
}

/** Chords of three to six notes by chance, some rolled a little, built of thirds and open fifths with doubled octaves now and then. */
export function chordsByChance(seed: number, count: number, lowKey: number, highKey: number): KnownNote[] {
  const chance = chanceFrom(seed)
  const shapes = [
    [0, 4, 7],
    [0, 3, 7],
    [0, 4, 7, 10],
    [0, 3, 7, 10],
    [0, 7, 12, 16],
    [0, 7, 12, 15, 19],
    [0, 7, 12, 16, 19, 24],
    [0, 5, 9],
    [0, 3, 8],
    [0, 5, 7, 12],
    [0, 4, 9, 14],
    [0, 7, 14],
  ]
  const notes: KnownNote[] = []
  let onsetMs = 300
  for (let index = 0; index < count; index++) {
    const shape = shapes[Math.floor(chance() * shapes.length)]!
    const top = highKey - shape.at(-1)!
    const root = lowKey + Math.floor(chance() * Math.max(1, top - lowKey))
    const gapMs = 350 + chance() * 900
    const rollMs = chance() < 0.5 ? chance() * 25 : 0
    const velocity = 60 + Math.floor(chance() * 50)
    for (const [place, interval] of shape.entries())
      notes.push({
        onsetMs: onsetMs + place * rollMs,
        durationMs: gapMs * 0.92 - place * rollMs,
        key: root + interval,
        velocity: Math.min(127, velocity + Math.floor(chance() * 15)),
      })
    onsetMs += gapMs
  }
  return notes
}

/** A melody over a moving bass and chords on the beat, as one player with two hands has them. */
export function textureByChance(seed: number, beats: number): KnownNote[] {
  const chance = chanceFrom(seed)
  const notes: KnownNote[] = []
  const beatMs = 480 + chance() * 200
  const chords = [
    [48, 64, 67],
    [45, 60, 64],
    [41, 60, 65],
    [43, 59, 62],
    [50, 62, 65],
    [40, 59, 64],
  ]
  let melody = 76
  for (let beat = 0; beat < beats; beat++) {
    const at = 300 + beat * beatMs + chance() * 15
    const chord = chords[Math.floor(beat / 2 + chance() * 2) % chords.length]!
    if (beat % 2 === 0) notes.push({ onsetMs: at, durationMs: beatMs * 1.8, key: chord[0]!, velocity: 75 })
    else
      for (const key of chord.slice(1))
        notes.push({ onsetMs: at + chance() * 12, durationMs: beatMs * 0.8, key, velocity: 60 })
    const division = chance() < 0.4 ? 2 : 1
    for (let part = 0; part < division; part++) {
      melody += Math.floor(chance() * 7) - 3
      melody = Math.max(70, Math.min(88, melody))
      notes.push({
        onsetMs: at + (part * beatMs) / division,
        durationMs: (beatMs / division) * 0.9,
        key: melody,
        velocity: 85 + Math.floor(chance() * 20),
      })
    }
  }
  return notes
}
