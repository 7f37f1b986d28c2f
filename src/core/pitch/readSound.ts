import type { Sound } from '../sound/readWav'
import { inOneChannel } from '../sound/readWav'
import { resample } from '../sound/resample'
import { type ListenerSettings, listeningRate } from './listenerSettings'
import { type HeardChords, readChords } from './readChords'
import { type HeardNote, readLine } from './readLine'
import { levelOf, listenTo, loudestDb } from './soundFrames'
import { isCutOff, problemsOfSound, type SoundProblem } from './soundRemarks'
import { tuningOf } from './tuning'

/** What was found in a whole sound. */
export interface ReadSound {
  readonly seconds: number
  /** In order of onset; those of chords also with little confidence. */
  readonly notes: readonly HeardNote[]
  /** How far it is tuned above concert pitch. */
  readonly tuningCents: number
  readonly problems: readonly SoundProblem[]
}

/** Hears several notes at once: from one channel at 22,050 Hz; yields the part that is done. */
export type ChordListener = (samples: Float32Array) => Generator<number, HeardChords, void>

/** Notes of chords from here on are taken for played. */
export const usualConfidence = 0.5

/**
 * Reads a whole sound: a line of single notes, or several at once.
 *
 * @param chords null for a line
 * @yields the part that is done, from 0 to 1
 */
export function* readSound(
  sound: Sound,
  settings: ListenerSettings,
  chords: ChordListener | null,
): Generator<number, ReadSound, void> {
  const original = resample(inOneChannel(sound), sound.sampleRate, listeningRate)
  const seconds = original.length / listeningRate
  const { samples, loudDb } = atUsualLevel(original)
  if (loudDb < silentDb) return { seconds, notes: [], tuningCents: 0, problems: ['silent'] }
  const lineShare = chords ? 0.25 : 1
  const listening = listenTo(samples, settings)
  let heard = listening.next()
  while (!heard.done) {
    yield heard.value * lineShare
    heard = listening.next()
  }
  const problems = problemsOfSound(samples, heard.value.frames)
  if (loudDb < weakDb) problems.push('weak')
  if (sound.channels.some(isCutOff)) problems.unshift('clipped')
  if (!chords) return { seconds, problems, ...readLine(heard.value, settings) }
  const several = chords(samples)
  let done = several.next()
  while (!done.done) {
    yield lineShare + done.value * (1 - lineShare)
    done = several.next()
  }
  return {
    seconds,
    notes: readChords(done.value),
    tuningCents: tuningOf(heard.value.frames, settings.concertHz),
    problems: problems.filter((problem) => problem !== 'noise' && problem !== 'speech'),
  }
}

const silentDb = -85
const weakDb = -42
const usualDb = -24

/** As loud as most recordings are, so that a soft one is read as well as a loud one. */
function atUsualLevel(samples: Float32Array): { samples: Float32Array; loudDb: number } {
  const step = Math.round(listeningRate / 50)
  const levelsDb: number[] = []
  for (let from = 0; from < samples.length; from += step) levelsDb.push(levelOf(samples, from, step))
  const loudDb = loudestDb(levelsDb)
  const gain = 10 ** ((usualDb - loudDb) / 20)
  return { loudDb, samples: loudDb < silentDb ? samples : samples.map((sample) => sample * gain) }
}
