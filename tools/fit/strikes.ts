/**
 * Fits the trees that tell whether a key was struck anew (src/core/pitch/strikes.ts) to repeated notes of instruments of a General MIDI
 * bank (package fluid-soundfont-gm, played by fluidsynth), and writes them. Lines are judged on another bank, which this never hears.
 *
 * npm run fit:strikes   (about a quarter of an hour)
 */
import { writeFileSync } from 'node:fs'
import { harmonicMotion, motionStepMs } from '../../src/core/pitch/harmonicMotion'
import { listenerSettingsOf, listeningRate } from '../../src/core/pitch/listenerSettings'
import {
  bankForFitting,
  chanceFrom,
  inRoom,
  type KnownNote,
  lineByChance,
  playedBySampler,
  usualManner,
  withNoise,
} from '../../src/core/pitch/playedLines.testing'
import { frameMs, type ListenedSound, listenTo, soundingHz } from '../../src/core/pitch/soundFrames'
import { aroundMoment, feltLateMs, knownAround } from '../../src/core/pitch/strikes'
import { resample } from '../../src/core/sound/resample'
import { fitTrees } from './boostedTrees'

/** General MIDI programs from 0, with the range each is played in. */
const players: readonly (readonly [programs: readonly number[], lowKey: number, highKey: number])[] = [
  [[0, 4, 11, 12, 13, 22, 24, 25, 26, 27, 28, 29, 30, 31, 45, 46], 45, 76],
  [[32, 33, 34, 35, 36, 38, 39, 43], 28, 55],
  [[40], 55, 88],
  [[41], 48, 79],
  [[42, 70], 36, 69],
  [[53, 54, 59, 61, 62, 64, 65, 66, 67, 69, 80, 81], 45, 76],
  [[56], 54, 82],
  [[57], 40, 70],
  [[58], 28, 58],
  [[60], 46, 77],
  [[68], 58, 86],
  [[71], 50, 84],
  [[72], 74, 100],
  [[73, 74, 75, 76, 78, 79], 60, 93],
]

/** A moment is one where something begins when the beginning lies this near. */
const nearMs = 25
/** Between that and this it is neither. */
const unsureMs = 60
/** Of moments at which nothing begins there are more than enough. */
const keptPart = 0.35

const chunks: Float32Array[] = []
const ones: number[] = []

/** Vibrato of up to a quarter tone to each side, and swells: what a player does to a held note. */
function played(samples: Float32Array, chance: () => number): Float32Array {
  const vibratoHz = 4.2 + chance() * 2.6
  const swellHz = 0.3 + chance() * 1.2
  const depthSamples = ((chance() * 45 * Math.LN2) / 1200 / (2 * Math.PI * vibratoHz)) * listeningRate
  const [tremoloDb, swellDb] = [chance() * 2.5, chance() * 5]
  return samples.map((_, index) => {
    const turn = (2 * Math.PI * index) / listeningRate
    const at = index + depthSamples * Math.sin(vibratoHz * turn)
    const before = Math.floor(at)
    const value = (samples[before] ?? 0) * (1 - at + before) + (samples[before + 1] ?? 0) * (at - before)
    const levelDb = tremoloDb * Math.sin(vibratoHz * turn + 1) + swellDb * Math.sin(swellHz * turn)
    return value * 10 ** (levelDb / 20)
  })
}

function listened(samples: Float32Array): ListenedSound {
  const listening = listenTo(samples, listenerSettingsOf.any)
  let step = listening.next()
  while (!step.done) step = listening.next()
  return step.value
}

/** Adds what is known around every moment of every key that sounds. */
function learnFrom(sound: ListenedSound, notes: readonly KnownNote[], chance: () => number): void {
  const known: number[] = []
  for (let first = 0; first < notes.length; ) {
    const { key, onsetMs: fromMs } = notes[first]!
    let next = first + 1
    while (notes[next]?.key === key) next++
    const last = notes[next - 1]!
    const endMs = last.onsetMs + last.durationMs
    const toMs = Math.min(endMs + 200, (notes[next]?.onsetMs ?? Infinity) - unsureMs)
    const again = notes.slice(first + 1, next).map(({ onsetMs }) => onsetMs)
    first = next
    const own = sound.frames.slice(Math.ceil(fromMs / frameMs) + 5, Math.floor(endMs / frameMs))
    const motion = harmonicMotion(sound.samples, fromMs, toMs + 80, soundingHz(own, key, 440))
    const startMs = Math.ceil((fromMs + 70) / motionStepMs) * motionStepMs
    for (let timeMs = startMs; timeMs <= toMs; timeMs += motionStepMs) {
      const distanceMs = Math.min(...again.map((onsetMs) => Math.abs(onsetMs + feltLateMs - timeMs)))
      const isOne = distanceMs <= nearMs
      if (!isOne && (distanceMs <= unsureMs || chance() > keptPart)) continue
      known.push(...aroundMoment(sound, motion, timeMs))
      ones.push(isOne ? 1 : 0)
    }
  }
  chunks.push(Float32Array.from(known))
}

for (const [programs, lowKey, highKey] of players)
  for (const program of programs) {
    for (const [seed, longestMs] of [
      [1, 650],
      [2, 1200],
    ] as const) {
      const manner = { ...usualManner, lowKey, highKey, repeats: 0.4, gapMs: [140, longestMs] as const }
      const notes = lineByChance(program * 31 + seed, 70, manner)
      const plain = resample(playedBySampler(notes, program, { bank: bankForFitting }), 44_100, listeningRate)
      const chance = chanceFrom(program * 7 + seed)
      const inSomeRoom = (samples: Float32Array) =>
        withNoise(
          inRoom(samples, listeningRate, 0.3 + chance() * 1.2, 0.1 + chance() * 0.2),
          25 + chance() * 15,
          program,
        )
      learnFrom(listened(plain), notes, chance)
      if (seed === 1) learnFrom(listened(played(plain, chance)), notes, chance)
      else {
        learnFrom(listened(inSomeRoom(plain)), notes, chance)
        learnFrom(listened(inSomeRoom(played(plain, chance))), notes, chance)
      }
    }
    process.stderr.write(`program ${program}: ${ones.length} moments\n`)
  }

const rows = new Float32Array(ones.length * knownAround)
let place = 0
for (const chunk of chunks) {
  rows.set(chunk, place)
  place += chunk.length
}
const { base, trees } = fitTrees({ width: knownAround, rows, isOne: Uint8Array.from(ones) })
const lines = trees.map((tree) => JSON.stringify(tree)).join(',\n')
writeFileSync('src/core/pitch/strikeTrees.json', `{"base":${base},"trees":[\n${lines}\n]}\n`)
