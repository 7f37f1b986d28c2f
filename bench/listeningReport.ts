/**
 * Prints how exact listening is, instrument by instrument: lines and chords by chance, played by a sampler and a bank that nothing here was
 * fitted to (fluidsynth, timgm6mb-soundfont), dry and in a noisy room. F1 is the usual measure of transcription: right key, onset within 50 ms.
 *
 * npm run report:listening [-- --json]
 */
import { LineFollower, notesOfFollowed } from '@/core/pitch/lineFollower'
import { type ListenerPreset, listenerSettingsOf, listeningRate } from '@/core/pitch/listenerSettings'
import {
  attackMsOf,
  chordsByChance,
  compareNotes,
  inRoom,
  type KnownNote,
  lineByChance,
  playedByModel,
  playedBySampler,
  textureByChance,
  usualManner,
  withNoise,
} from '@/core/pitch/playedLines.testing'
import { type ChordListener, readSound, usualConfidence } from '@/core/pitch/readSound'

import { blownPipe } from '@/core/sound/models/blownPipe'
import { pluckedString } from '@/core/sound/models/pluckedString'
import { sungVowel } from '@/core/sound/models/sungVowel'
import { resample } from '@/core/sound/resample'
import { chordModel } from '@/rendering/chordListener'

const sampleRate = 44_100

/** Name, General MIDI program from 0, lowest and highest key, preset. */
const players: readonly [string, number, number, number, ListenerPreset][] = [
  ['nylon guitar', 24, 40, 76, 'guitar'],
  ['steel guitar', 25, 40, 76, 'guitar'],
  ['electric guitar', 27, 40, 76, 'guitar'],
  ['overdriven guitar', 29, 40, 76, 'guitar'],
  ['fingered bass', 33, 28, 55, 'bass'],
  ['picked bass', 34, 28, 55, 'bass'],
  ['acoustic bass', 32, 28, 55, 'bass'],
  ['violin', 40, 55, 88, 'string'],
  ['viola', 41, 48, 79, 'string'],
  ['cello', 42, 36, 69, 'string'],
  ['voice', 53, 48, 76, 'voice'],
  ['trumpet', 56, 54, 82, 'wind'],
  ['trombone', 57, 40, 69, 'wind'],
  ['horn', 60, 46, 77, 'wind'],
  ['alto saxophone', 65, 49, 80, 'wind'],
  ['tenor saxophone', 66, 44, 75, 'wind'],
  ['oboe', 68, 58, 86, 'wind'],
  ['bassoon', 70, 34, 67, 'wind'],
  ['clarinet', 71, 50, 84, 'wind'],
  ['flute', 73, 60, 93, 'wind'],
  ['ocarina', 79, 60, 93, 'wind'],
]

const chordPieces: readonly [string, KnownNote[], number][] = [
  ['piano chords', chordsByChance(901, 16, 45, 84), 0],
  ['electric piano chords', chordsByChance(902, 16, 45, 84), 4],
  ['nylon guitar chords', chordsByChance(903, 16, 40, 76), 24],
  ['steel guitar chords', chordsByChance(904, 16, 40, 76), 25],
  ['piano with melody', textureByChance(905, 20), 1],
  ['nylon guitar with melody', textureByChance(906, 20), 24],
  ['string ensemble chords', chordsByChance(907, 16, 45, 84), 48],
]

function heard(samples: Float32Array, preset: ListenerPreset, chords: ChordListener | null) {
  const reading = readSound({ sampleRate, channels: [samples] }, listenerSettingsOf[preset], chords)
  let step = reading.next()
  while (!step.done) step = reading.next()
  return step.value.notes.filter(({ confidence }) => !chords || confidence >= usualConfidence)
}

/** What is left on a track of a line that is followed while it is played, at the level of a well-adjusted input. */
function followed(samples: Float32Array, preset: ListenerPreset) {
  let peak = 0
  for (const sample of samples) peak = Math.max(peak, Math.abs(sample))
  const input = resample(samples, sampleRate, listeningRate).map((sample) => (sample * 0.4) / peak)
  const follower = new LineFollower(listenerSettingsOf[preset])
  return notesOfFollowed([...follower.push(input), ...follower.end()])
}

const inNoisyRoom = (samples: Float32Array) => withNoise(inRoom(samples, sampleRate, 1.2, 0.25), 25, 5)

/** Lines by models of instruments, which nothing was fitted to either; a note begins when it has a tenth of its loudest. */
const modelled: readonly [string, typeof pluckedString, number, number, ListenerPreset][] = [
  ['plucked string, modelled', pluckedString, 45, 76, 'guitar'],
  ['blown pipe, modelled', blownPipe, 50, 84, 'wind'],
  ['sung vowel, modelled', sungVowel, 45, 74, 'voice'],
]

function lineScore(name: string, notes: readonly KnownNote[], sound: Float32Array, preset: ListenerPreset) {
  const clean = compareNotes(notes, heard(sound, preset, null))
  const again = notes.filter((note, index) => notes[index - 1]?.key === note.key)
  return {
    name,
    clean: clean.f1,
    live: compareNotes(notes, followed(sound, preset)).f1,
    room: compareNotes(notes, heard(inNoisyRoom(sound), preset, null)).f1,
    again: again.length,
    againFound: again.filter((note) => !clean.missed.includes(note)).length,
  }
}

async function report() {
  const lines = players.map(([name, program, lowKey, highKey, preset]) => {
    const notes = lineByChance(program * 13 + 5, 60, { ...usualManner, lowKey, highKey })
    return lineScore(name, notes, playedBySampler(notes, program), preset)
  })
  const models = modelled.map(([name, model, lowKey, highKey, preset], index) => {
    const notes = lineByChance(index * 17 + 3, 60, { ...usualManner, lowKey, highKey })
    const sounded = notes.map((note, place) => {
      const tone = { ...note, seconds: note.durationMs / 1000, offCents: 0, seed: place }
      return { ...note, onsetMs: note.onsetMs + attackMsOf(model, tone) }
    })
    return lineScore(name, sounded, playedByModel(notes, model), preset)
  })
  const model = await chordModel()
  const chords = chordPieces.map(([name, notes, program]) => {
    const sound = playedBySampler(notes, program)
    return {
      name,
      clean: compareNotes(notes, heard(sound, 'any', model.hear)).f1,
      room: compareNotes(notes, heard(inNoisyRoom(sound), 'any', model.hear)).f1,
    }
  })
  return { lines, models, chords }
}

report().then(({ lines, models, chords }) => {
  if (process.argv.includes('--json')) {
    process.stdout.write(JSON.stringify({ lines, models, chords }))
    return
  }
  const print = ({ name, clean, room, live }: { name: string; clean: number; room: number; live?: number }) =>
    process.stdout.write(
      `${name.padEnd(28)}${clean.toFixed(3)}  ${room.toFixed(3)}       ${live?.toFixed(3) ?? ''}\n`,
    )
  process.stdout.write(`${'F1'.padEnd(28)}dry    noisy room  while it is played, dry\n`)
  for (const line of [...lines, ...models]) print(line)
  for (const piece of chords) print(piece)
  const again = lines.reduce((sum, line) => sum + line.again, 0)
  const found = lines.reduce((sum, line) => sum + line.againFound, 0)
  process.stdout.write(`repeated notes found, dry: ${found} of ${again}\n`)
})
